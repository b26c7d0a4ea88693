/** Someone in a customer's directory, as imported. */
export interface PersonRow {
  readonly account: string;
  readonly given: string;
  readonly family: string;
  readonly mail: string;
}

/** Somebody as a customer's directory knows them. */
export interface DirectoryPerson extends PersonRow {
  /** The directory's own name for them, which stays when their account changes. */
  readonly id: string;
  /** Where they stand in it, from the top: `Clinics/North`. */
  readonly unit: string;
  /** Switched off there: nobody comes in under it. */
  readonly disabled: boolean;
}

/** A group of a directory, with who is in it directly: people and groups by their ids. */
export interface DirectoryGroup {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  readonly people: readonly string[];
  readonly groups: readonly string[];
}

/** A directory, or what of it has been read. */
export interface DirectoryRead {
  readonly people: readonly DirectoryPerson[];
  readonly groups: readonly DirectoryGroup[];
}
