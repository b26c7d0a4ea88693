import Joi from 'joi';
import { blocks, defineChange } from '../planning';
import { ok } from '../result';
import { gatewayKey } from '../resources';

/** Has the gateway at a site answer with the certificate that is kept: the one before stays until the new one does. */
export const serveCertificate = defineChange<Record<string, never>>({
  kind: 'serve-certificate',
  subject: 'environment',
  of: 'customers',
  verb: 'Serve the certificate',
  input: Joi.object<Record<string, never>>({}),
  right: 'build',
  confirm: 'press',
  undo: 'none',
  title: (_input, { customer, site }) =>
    `Serve the certificate of ${customer.gateway?.name ?? 'the gateway'} at ${site.name}`,
  // Which one that is follows from what is kept by now.
  edit: (intent) => ok(intent),
  // What a gateway would not take is offered it again.
  chosen: (_input, { site }) => [{ key: gatewayKey(site.code), attribute: 'certificate' }],
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  checks: (_edited, _input, { customer }) =>
    customer.gateway
      ? []
      : [
          blocks(
            'gateway',
            'Gateway',
            `${customer.code} has no name to sign in at, or no certificate for it`,
            'Give them under Gateway.',
          ),
        ],
  people: () => 0,
});
