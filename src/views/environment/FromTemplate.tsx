import { useState } from 'react';
import type { OriginView } from '../../contract';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import styles from './Environment.module.css';

interface Props {
  readonly origin: OriginView;
  /** Undefined: nothing may be changed here. */
  readonly onChange: ((changing: Changing) => void) | undefined;
}

/** What is otherwise than its template gave it, kept or put back one by one; and what a newer revision says. */
export function FromTemplate({ origin, onChange }: Props) {
  const [back, setBack] = useState<readonly string[]>([]);
  const [kept, setKept] = useState<readonly string[]>([]);
  const { template, name, revision, newest, inputs, deviations, changes } = origin;
  if (template === null || newest === null) return null;
  const isBehind = newest > revision;
  const toggle = (list: readonly string[], key: string): readonly string[] =>
    list.includes(key) ? list.filter((one) => one !== key) : [...list, key];
  const follow = (): void =>
    onChange?.({
      kind: 'follow-template',
      verb: isBehind ? `Follow revision ${newest}` : 'Put back',
      what: isBehind ? `of ${name}` : count(back.length, 'thing', 'things'),
      input: {
        keep: [...deviations.map(({ key }) => key).filter((key) => !back.includes(key)), ...kept],
      },
      danger: changes.some((one) => isPoolGone(one) && !kept.includes(poolOf(one))),
      done: () => setBack([]),
    });
  return (
    <Panel
      title={`From ${name}, revision ${revision}`}
      side={
        <span className={styles.mend}>
          {isBehind ? (
            <Chip tone="care">revision {newest} is there</Chip>
          ) : (
            <Chip tone="good">newest revision</Chip>
          )}
          {onChange && (isBehind || deviations.length > 0) && (
            <Button
              kind={isBehind ? 'main' : 'plain'}
              isDisabled={!isBehind && back.length === 0}
              onPress={follow}
            >
              {isBehind ? `Follow revision ${newest}…` : 'Put back…'}
            </Button>
          )}
        </span>
      }
    >
      {inputs.length > 0 && (
        <p className={styles.quiet}>{inputs.map(({ title, value }) => `${title}: ${value}`).join(', ')}</p>
      )}
      {deviations.length === 0 && !isBehind && (
        <p className={styles.quiet}>Everything is as the template gave it.</p>
      )}
      {deviations.length > 0 && (
        <section className={styles.cause} aria-label="Otherwise than the template gave it">
          <h3>
            Otherwise than the template gave it <small>it stays so, unless it is put back</small>
          </h3>
          <ul className={styles.differences}>
            {deviations.map((one) => (
              <li key={one.key}>
                <span>
                  {one.pool !== '' && <b>{one.pool} </b>}
                  {one.what}
                </span>
                <span>
                  <b>{one.is}</b> <small className={styles.quiet}>given {one.given}</small>
                </span>
                {onChange && (
                  <fieldset>
                    <legend className="sr">{`${one.pool} ${one.what}`}</legend>
                    <label>
                      <input
                        type="checkbox"
                        checked={back.includes(one.key)}
                        onChange={() => setBack(toggle(back, one.key))}
                      />
                      {isBehind ? 'as the template says' : 'put back'}
                    </label>
                  </fieldset>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {isBehind && (
        <section className={styles.cause} aria-label={`What revision ${newest} says otherwise`}>
          <h3>What revision {newest} says otherwise</h3>
          <ul className={styles.differences}>
            {changes.map((one) => (
              <li key={`${one.where} ${one.what}`}>
                <span>
                  {one.where !== '' && <b>{one.where.replace('pool ', '')} </b>}
                  {one.what}
                </span>
                <span>
                  <b>{one.after === '' ? 'gone' : one.after}</b>{' '}
                  {one.before !== '' && <small className={styles.quiet}>was {one.before}</small>}
                </span>
                {onChange && isPoolGone(one) && (
                  <fieldset>
                    <legend className="sr">{one.where}</legend>
                    <label>
                      <input
                        type="checkbox"
                        checked={kept.includes(poolOf(one))}
                        onChange={() => setKept(toggle(kept, poolOf(one)))}
                      />
                      keep the pool
                    </label>
                  </fieldset>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
    </Panel>
  );
}

type Change = OriginView['changes'][number];

const isPoolGone = ({ what, after }: Change): boolean => what === 'pool' && after === '';
const poolOf = ({ where }: Change): string => where.replace('pool ', '');
