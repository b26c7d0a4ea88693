/** A system outside refused, or no good answer came. */
export class OutsideError extends Error {
  constructor(
    /** Which system: `provider coast`, `directory`, `mail`. */
    readonly system: string,
    message: string,
    /** `lasting`: asking again will not help. `changed`: what was to be changed has changed meanwhile. */
    readonly trouble: 'passing' | 'lasting' | 'changed',
    readonly retryAfterMs?: number,
  ) {
    super(message);
  }

  get says(): string {
    return `${this.system} ${this.message}`;
  }
}

/** It does not take our account or secret. That may be put right any moment, also while a run is at work. */
export class CredentialsRefused extends OutsideError {
  constructor(system: string) {
    super(system, 'says: account or secret is wrong', 'passing');
  }
}
