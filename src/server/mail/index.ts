import { ProviderTrouble } from '../provider';

/** Mail to people. Sending the same id again sends nothing. */
export interface Mail {
  send(id: string, message: { to: readonly string[]; subject: string; body: string }): Promise<void>;
}

export function httpMail(url: string): Mail {
  return {
    send: async (id, message) => {
      const response = await fetch(`${url}/messages/${encodeURIComponent(id)}`, {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(message),
        signal: AbortSignal.timeout(10_000),
      }).catch(() => {
        throw new ProviderTrouble('mail: does not answer', false);
      });
      if (!response.ok) throw new ProviderTrouble(`mail: answered ${response.status}`, response.status < 500);
    },
  };
}
