import { accepted, outsideHttp } from '../outside';

/** Mail to people. Sending the same id again sends nothing. */
export interface Mail {
  send(id: string, message: { to: readonly string[]; subject: string; body: string }): Promise<void>;
}

export function httpMail(url: string): Mail {
  const send = outsideHttp('mail', url);
  return {
    send: async (id, message) =>
      void accepted('mail', await send('PUT', `/messages/${encodeURIComponent(id)}`, { json: message })),
  };
}
