import type { DirectoryGroup, DirectoryPerson } from '../../core/people';

/** Which entries of a directory are asked for. */
export interface Asked {
  /** How many entries are passed over. */
  readonly from: number;
  /** Only what was changed then or later, by the directory's own clock; undefined: all. */
  readonly since?: string | undefined;
}

export interface DirectoryPage<Entry> {
  readonly entries: readonly Entry[];
  /** How many there are of them in all. */
  readonly total: number;
  /** The directory's clock when it answered; undefined: it does not say. */
  readonly at: number | undefined;
}

/** A customer's directory, read with a secret of theirs. @throws OutsideError, CredentialsRefused */
export interface DirectoryReader {
  people(asked: Asked): Promise<DirectoryPage<DirectoryPerson>>;
  groups(asked: Asked): Promise<DirectoryPage<DirectoryGroup>>;
  /** Only how they are named, for finding out who is gone. */
  ids(of: 'people' | 'groups', asked: Pick<Asked, 'from'>): Promise<DirectoryPage<string>>;
  /** How many there are in all. */
  total(of: 'people' | 'groups'): Promise<number>;
  /** Undefined: they are not in it. */
  person(id: string): Promise<DirectoryPerson | undefined>;
}
