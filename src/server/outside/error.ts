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
  constructor(system: string, says = 'says: account or secret is wrong') {
    super(system, says, 'passing');
  }
}

/** It does what is asked for others: our account lacks the right. */
export class NotAllowed extends OutsideError {
  constructor(system: string, message: string) {
    super(system, message, 'lasting');
  }
}

/** Why no answer came at all. `elsewhere`: it sent us to another address, where our secret has no business. */
export type Unreached = 'name' | 'nobody' | 'certificate' | 'silence' | 'elsewhere' | 'other';

/** No answer came from it. */
export class Unreachable extends OutsideError {
  constructor(
    system: string,
    message: string,
    readonly why: Unreached,
  ) {
    super(system, message, 'passing');
  }
}
