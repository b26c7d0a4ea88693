import type { ProfileKey } from '../sizing';

export interface ProvisionWish {
  /** The environment's name: its hosts carry it in upper case. */
  readonly environment: string;
  readonly people: number;
  readonly profile: ProfileKey;
  /** A size chosen by hand; undefined: the cheapest that keeps N+1. */
  readonly size?: string | undefined;
}
