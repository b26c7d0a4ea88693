import type { Attributes } from '../../core/intent';
import { certificateAt } from '../outside';
import {
  act,
  done,
  failed,
  make,
  presentNow,
  readPlainly,
  remove,
  set,
  type NowOf,
  type ResourceWork,
} from './work';

const wanted = ({ resource }: NowOf, name: 'dnsName' | 'certificate'): string =>
  String(resource.attributes[name] ?? '');

/** Whether the new one is answered with, asked for real, as a browser would ask. */
async function answer(now: NowOf): Promise<ReturnType<typeof done>> {
  const { listens } = (await presentNow(now)).attributes;
  const name = wanted(now, 'dnsName');
  const seen = await certificateAt(String(listens ?? ''), name);
  if (seen.fingerprint === wanted(now, 'certificate'))
    return done(`${name} answers with the one that ends on ${seen.ends}`);
  return failed(`${name} still answers with the one that ends on ${seen.ends}: it stays in use`);
}

export const gatewayWork: ResourceWork = {
  read: (present) => {
    const { condition, attributes } = readPlainly(present);
    const { dnsName = '', certificate } = attributes;
    return { condition, attributes: { dnsName, certificate: certificate ?? '' } };
  },
  actions: {
    make: make((now) => ({ dnsName: wanted(now, 'dnsName') })),
    set: set(
      (now) => ({ dnsName: wanted(now, 'dnsName') }),
      (now) => `is for ${wanted(now, 'dnsName')}`,
    ),
    install: act(
      'install-certificate',
      async (now): Promise<Attributes> => {
        const kept = await now.certificate(wanted(now, 'certificate'));
        return kept ? { chain: kept.chain, key: kept.key } : {};
      },
      ({ attributes: { certificate, certificates } }, now) => {
        const own = wanted(now, 'certificate');
        if (certificate === own) return 'is in use';
        // Given once, it is there: whether it is taken into use, the next step asks.
        const isThere = Array.isArray(certificates) && certificates.includes(own);
        return now.step.round > 0 && isThere ? 'is there' : undefined;
      },
    ),
    answer,
    drop: act(
      'drop-certificates',
      () => ({}),
      ({ attributes: { certificates } }) =>
        Array.isArray(certificates) && certificates.length > 1
          ? undefined
          : 'nothing of the one before is left',
    ),
    remove,
  },
};
