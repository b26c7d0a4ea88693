import { connect } from 'node:tls';
import { OutsideError } from './error';

const WAIT_MS = 10_000;

/**
 * With which certificate a server answers under a name (RFC 6066, section 3), whatever it is worth.
 * @param listens `host:port`
 * @throws OutsideError when none answers
 */
export const certificateAt = (
  listens: string,
  name: string,
): Promise<{ readonly fingerprint: string; readonly ends: string }> =>
  new Promise((resolve, reject) => {
    const [host = '', port = ''] = listens.split(':');
    const socket = connect({ host, port: Number(port), servername: name, rejectUnauthorized: false });
    const fail = (says: string) => (): void => {
      socket.destroy();
      reject(new OutsideError('gateway', says, 'passing'));
    };
    socket.setTimeout(WAIT_MS, fail('does not answer'));
    socket.on('error', fail('gives no secure answer'));
    socket.on('secureConnect', () => {
      const { fingerprint256, valid_to } = socket.getPeerCertificate();
      socket.destroy();
      resolve({
        fingerprint: fingerprint256.replaceAll(':', '').toLowerCase(),
        ends: new Date(valid_to).toISOString().slice(0, 10),
      });
    });
  });
