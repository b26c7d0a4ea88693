import type { CustomerSummary } from '../../contract';
import { count } from '../../client/format';
import { Mark } from '../../ui/Mark';
import styles from './Spread.module.css';

/** Where two headings meet: those on one plan at one home site. */
export interface Place {
  readonly plan: string;
  readonly site: string;
}

export const isAt = (one: CustomerSummary, place: Place | undefined): boolean =>
  place === undefined || (one.plan === place.plan && one.site === place.site);

/** So many marks tell in a cell who is there; of more it tells how many. */
const MOST_MARKS = 12;

interface Props {
  readonly customers: readonly CustomerSummary[];
  readonly picked: Place | undefined;
  readonly onPick: (place: Place | undefined) => void;
}

/** Who is on which plan, at which site: each place is pressed to see its customers alone, and again to see all. */
export function Spread({ customers, picked, onPick }: Props) {
  const plans = [...new Set(customers.map((one) => one.plan))].sort();
  const sites = [...new Set(customers.map((one) => one.site))].sort();
  const at = (place: Partial<Place>): CustomerSummary[] =>
    customers.filter(
      (one) =>
        (place.plan === undefined || one.plan === place.plan) &&
        (place.site === undefined || one.site === place.site),
    );
  const cells = plans.flatMap((plan) => sites.map((site) => at({ plan, site })));
  const most = Math.max(1, ...cells.map((all) => all.length));
  return (
    <div className={styles.frame}>
      <table className={styles.spread} style={{ minWidth: 120 + 90 * sites.length }}>
        <caption className="sr">Customers by plan and home site</caption>
        <thead>
          <tr>
            <td />
            {sites.map((site) => (
              <th key={site} scope="col">
                {site} <small>{at({ site }).length}</small>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {plans.map((plan) => (
            <tr key={plan}>
              <th scope="row">
                {plan} <small>{at({ plan }).length}</small>
              </th>
              {sites.map((site) => {
                const here = at({ plan, site });
                const isPicked = picked?.plan === plan && picked.site === site;
                return (
                  <td key={site}>
                    {here.length > 0 && (
                      <button
                        type="button"
                        aria-pressed={isPicked}
                        aria-label={`${plan} at ${site}: ${count(here.length, 'customer', 'customers')}`}
                        onClick={() => onPick(isPicked ? undefined : { plan, site })}
                      >
                        {most <= MOST_MARKS ? (
                          here.map((one) => <Mark key={one.code} mark={one.mark} size={30} />)
                        ) : (
                          <>
                            <i style={{ width: `${(100 * here.length) / most}%` }} />
                            <b>{here.length}</b>
                          </>
                        )}
                      </button>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
