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

  /** Deadlock, record changed since last read (also a replicated cluster's refusal), lock wait timeout. */
  get isToBeTriedAgain(): boolean {
    return this.errno === 1213 || this.errno === 1020 || this.errno === 1205;
  }

  /** There was no connection to send it over, so nothing of it can have been done. */
  get wasNeverSent(): boolean {
    const { cause } = this;
    return cause instanceof Error && 'syscall' in cause && cause.syscall === 'connect';
  }

  get isDuplicate(): boolean {
    return this.errno === 1062;
  }
}

export function databaseError(error: unknown): DatabaseError {
  if (error instanceof DatabaseError) return error;
  const message = error instanceof Error ? error.message : String(error);
  const errno =
    error instanceof Error && 'errno' in error && typeof error.errno === 'number' && error.errno > 0
      ? error.errno
      : 0;
  return new DatabaseError(message, errno, error);
}
