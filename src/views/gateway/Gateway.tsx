import { useState } from 'react';
import { ShieldCheck } from 'lucide-react';
import type { Gateway as GatewayData } from '../../contract';
import { CERTIFICATE_DAYS, daysLeft } from '../../core/certificates';
import { get } from '../../client/api';
import { writeDay } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import type { MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { NewCertificate } from './NewCertificate';
import { Spans } from './Spans';
import styles from './Gateway.module.css';

interface Props {
  readonly customer: {
    readonly code: string;
    readonly name: string;
    readonly zone: string;
    readonly mark: MarkLook;
  };
  readonly initial: GatewayData;
  readonly now: number;
  readonly mayChange: boolean;
}

const SERVE: Changing = {
  kind: 'serve-certificate',
  verb: 'Serve',
  what: 'the newest certificate',
  input: {},
};

/** Where do their people sign in, with which certificate, and until when? */
export function Gateway({ customer, initial, now, mayChange }: Props) {
  const { code, zone } = customer;
  const { value, again } = useLive(
    { key: 'gateway', read: () => get('/customers/{customer}/gateway', { customer: code }) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic !== 'clock',
  );
  const [serving, setServing] = useState<string>();
  const { name, certificates, sites } = value;
  const [newest] = certificates;
  return (
    <div className={styles.page}>
      <Panel
        title={name === '' ? 'No name of their own' : name}
        side={
          <a className={styles.quiet} href={`/customers/${code}/about`}>
            {name === '' ? 'give them one' : 'change the name'}
          </a>
        }
      >
        {certificates.length === 0 ? (
          <Empty
            says={
              name === ''
                ? 'Their people sign in at no name of their own.'
                : `No certificate for ${name} yet: paste one below, or give a file.`
            }
          />
        ) : (
          <Spans certificates={certificates} sites={sites} now={now} zone={zone} />
        )}
        {newest && sites.length > 0 && (
          <ul className={styles.sites}>
            {sites.map((site) => {
              const served = certificates.find((one) => one.fingerprint === site.serves);
              const isNewest = site.serves === newest.fingerprint;
              return (
                <li key={site.site}>
                  <b>{site.siteName}</b>
                  {site.underWay ? (
                    <Chip tone="busy">under way</Chip>
                  ) : isNewest ? (
                    <Chip tone={daysLeft(newest.until, now) < CERTIFICATE_DAYS ? 'care' : 'good'}>
                      answers with the newest
                    </Chip>
                  ) : served ? (
                    <Chip tone="care">answers with the one until {writeDay(served.until, zone)}</Chip>
                  ) : (
                    <Chip tone="quiet">
                      {site.serves === null ? 'no gateway yet' : 'answers with one that is not kept'}
                    </Chip>
                  )}
                  {mayChange && name !== '' && !isNewest && !site.underWay && (
                    <Button
                      kind="main"
                      icon={<ShieldCheck size={15} aria-hidden="true" />}
                      onPress={() => setServing(site.environment)}
                    >
                      Serve the newest at {site.siteName}
                    </Button>
                  )}
                </li>
              );
            })}
          </ul>
        )}
      </Panel>
      {mayChange && <NewCertificate code={code} zone={zone} onKept={again} />}
      {serving !== undefined && (
        <Confirm
          customer={customer}
          environment={serving}
          change={SERVE}
          onClose={() => setServing(undefined)}
          onBegun={again}
        />
      )}
    </div>
  );
}
