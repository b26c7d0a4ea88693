import pino, { type Logger } from 'pino';

export type Log = Logger;

/** Structured lines on standard output. Fields that may hold a secret are never written. */
export const makeLog = (part: string, level: string): Log =>
  pino({
    base: { part },
    level,
    redact: {
      paths: [
        'password',
        'secret',
        'token',
        'authorization',
        '*.password',
        '*.secret',
        '*.token',
        '*.authorization',
      ],
      remove: true,
    },
  });
