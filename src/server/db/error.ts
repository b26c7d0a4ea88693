/**
 * MariaDB's numbers for what is wrong with a statement or its values: null where none may be, no such column, syntax, no
 * such table, out of range, a date that is none, a value of another type, longer than its column, referred to, referring to
 * nothing, against a check, letters that cannot be there.
 */
const NEVER: ReadonlySet<number> = new Set([
  1048, 1054, 1064, 1146, 1264, 1267, 1270, 1271, 1292, 1366, 1406, 1451, 1452, 3854, 4025,
]);

/** A value holds letters that what it is compared with cannot hold (illegal mix of collations). */
const FOREIGN_LETTERS: ReadonlySet<number> = new Set([1267, 1270, 1271]);

/** The database refused a statement, or did not answer. */
export class DatabaseError extends Error {
  constructor(
    message: string,
    /** MariaDB's error number; 0: it did not answer. */
    readonly errno: number,
    override readonly cause: unknown,
  ) {
    super(message);
  }

  /**
   * Deadlock, record changed since last read (also a replicated cluster's refusal), lock wait timeout; a statement whose
   * tables were opened anew each time that it was to be done, as while they are being changed.
   */
  get isToBeTriedAgain(): boolean {
    return this.errno === 1213 || this.errno === 1020 || this.errno === 1205 || this.errno === 1615;
  }

  /** There was no connection to send it over, so nothing of it can have been done. */
  get wasNeverSent(): boolean {
    const { cause } = this;
    return cause instanceof Error && 'syscall' in cause && cause.syscall === 'connect';
  }

  /** The connection ended before an answer came: what was asked may be done, or may not. */
  get isLost(): boolean {
    if (this.wasNeverSent) return false;
    // 1927: the server ended it, as it does with who was idle for too long within a transaction.
    if (this.errno === 1927) return true;
    const { cause } = this;
    return cause instanceof Error && 'fatal' in cause && cause.fatal === true && this.errno === 0;
  }

  /** It answered, and will never do what was asked, however often: the statement, or what it was given, is wrong. */
  get isOurFault(): boolean {
    return NEVER.has(this.errno);
  }

  /** What was asked for bears a name that nothing here can bear. */
  get isNobodysName(): boolean {
    // Of two columns it would be a fault of the statement.
    return FOREIGN_LETTERS.has(this.errno) && this.message.includes('COERCIBLE');
  }

  get isDuplicate(): boolean {
    return this.errno === 1062;
  }
}

/** It gave no answer in time: what it was asked for may still be done, or not. */
export class SilentDatabase extends DatabaseError {
  constructor(ms: number) {
    super(`no answer for ${ms / 1_000} s`, 0, undefined);
  }

  override get isLost(): boolean {
    return true;
  }
}

/**
 * A message of MariaDB without the values that it quotes: they are people's mail addresses and names, and messages are
 * logged. Names of columns and keys stay.
 */
export const withoutValues = (message: string): string =>
  message.replace(/^(Duplicate entry) '.*'( for key)/s, '$1$2').replace(/ value: '.*'/s, ' value');

export function databaseError(error: unknown): DatabaseError {
  if (error instanceof DatabaseError) return error;
  const message = error instanceof Error ? error.message : String(error);
  const errno =
    error instanceof Error && 'errno' in error && typeof error.errno === 'number' && error.errno > 0
      ? error.errno
      : 0;
  return new DatabaseError(withoutValues(message), errno, error);
}
