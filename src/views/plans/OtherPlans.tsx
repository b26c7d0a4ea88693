import type { CustomerPlan, Plan } from '../../contract';
import { dearerBy, limitsPassed } from '../../core/plans';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import { monthlySays } from './MovePlan';
import styles from './Plans.module.css';

interface Props {
  readonly held: CustomerPlan;
  readonly plans: readonly Plan[];
  readonly currency: string;
  readonly now: number;
  readonly onMove: ((plan: string) => void) | undefined;
}

const isAlike = (a: CustomerPlan['included'], b: CustomerPlan['included']): boolean =>
  a.length === b.length &&
  a.every((one) => b.some((other) => other.meter === one.meter && other.quantity === one.quantity));

/** What else they could be on: what it would cost more or less, and which limits they would pass. */
export function OtherPlans({ held, plans, currency, now, onMove }: Props) {
  const others = plans.flatMap(({ code, name, versions }) => {
    const newest = versions.find((one) => one.from <= now);
    const isHeld = code === held.plan && newest?.version === held.version;
    return newest && !isHeld ? [{ code, name, newest }] : [];
  });
  if (others.length === 0) return null;
  return (
    <Panel title="On another plan">
      <ul className={styles.others}>
        {others.map(({ code, name, newest }) => {
          const passed = limitsPassed(held.takes, { ...newest, name, allowances: [] }, now);
          return (
            <li key={code}>
              <b>
                {name} <small>v{newest.version}</small>
              </b>
              <span>
                {monthlySays(dearerBy(held.fees, newest.fees, currency))}
                {!isAlike(held.included, newest.included) && ', and other things are in it'}
              </span>
              <span className={styles.fits}>
                {passed.length === 0 ? (
                  <Chip tone="good">within its limits</Chip>
                ) : (
                  passed.map(({ limit, says }) => (
                    <Chip key={limit} tone="care">
                      {says.split(';')[0]}
                      {newest.most[limit] === null ? '' : `, it allows ${newest.most[limit]}`}
                    </Chip>
                  ))
                )}
              </span>
              {onMove && <Button onPress={() => onMove(code)}>Move …</Button>}
            </li>
          );
        })}
      </ul>
    </Panel>
  );
}
