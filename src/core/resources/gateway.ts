import Joi from 'joi';
import { holdingOf } from '../intent';
import { differing, type ResourceKind } from './kind';

type Gateway = {
  readonly site: string;
  /** The DNS name that people sign in at. */
  readonly dnsName: string;
  /** Which certificate it answers with, by its fingerprint. */
  readonly certificate: string;
};

export const gatewayKey = (site: string): string => `gateway:${site}`;

/** Where a customer's people come in at a site: it answers under their name, with their certificate. */
export const gateway: ResourceKind<Gateway> = {
  key: 'gateway',
  words: { one: 'gateway', many: 'gateways' },
  attributes: Joi.object<Gateway, true>({
    site: Joi.string().required(),
    dnsName: Joi.string().required(),
    certificate: Joi.string().required(),
  }),
  shared: true,
  wanted: (intent, { gateway: wanted }) => {
    const { site } = intent;
    return wanted && holdingOf(intent) === 'desktops'
      ? [
          {
            key: gatewayKey(site),
            kind: 'gateway',
            name: wanted.name,
            attributes: { site, dnsName: wanted.name, certificate: wanted.certificate },
            needs: [`network:${site}`],
          },
        ]
      : [];
  },
  differences: (wanted, present) => [
    ...differing(wanted, present, 'dnsName', 'in place', false),
    ...differing(
      wanted,
      present,
      'certificate',
      'in place',
      false,
      present.certificate === ''
        ? 'answers with no certificate'
        : 'answers with another certificate than the one that is kept',
    ),
  ],
  // The one before is dropped only once the new one answers.
  steps: (task) => {
    if (task.do === 'remove') return [{ action: 'remove', seconds: 20 }];
    return [
      ...(task.do === 'change' ? [{ action: 'set', seconds: 5 }] : [{ action: 'make', seconds: 30 }]),
      { action: 'install', seconds: 15 },
      { action: 'answer', seconds: 5 },
      { action: 'drop', seconds: 5 },
    ];
  },
  meters: () => [],
};
