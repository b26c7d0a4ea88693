import type { Facts } from '../../facts';
import { blocks, mendedAt, passes, warns, type Check, type Fix } from '../../planning';
import { money, plain } from '../../money';
import { writeSize } from '../../machines';
import { isPersonal } from '../../sizing';
import type { PlanFacts } from '../../plans';
import type { Feature } from '../../templates';
import { groupsCheck } from '../common';
import type { ProvisionInput } from './input';
import { groupsNamed } from './pools';
import { sizePools, type SizedPool } from './sizes';

/** What is checked of a new environment beyond what every plan is checked for. */
export function provisionChecks(input: ProvisionInput, facts: Facts): Check[] {
  const pools = sizePools(input, facts);
  return [
    nameCheck(input, facts),
    ...pools.map((pool) => sizeCheck(pool, pools.length === 1, facts)),
    peopleCheck(input, facts),
    ...featureCheck(facts),
    ...groupsCheck(groupsNamed(pools.map(({ spec }) => spec)), facts),
  ];
}

function nameCheck({ environment }: ProvisionInput, { customer }: Facts): Check {
  const title = 'Environment name';
  if (!/^[a-z][a-z0-9-]{0,23}$/.test(environment))
    return blocks(
      'name',
      title,
      environment === '' ? 'has no name yet' : `"${environment}" cannot be used`,
      'Begin with a letter; up to 24 small letters, digits and hyphens.',
    );
  if (customer.environments.includes(environment))
    return blocks('name', title, `${customer.code} has ${environment} already`, 'Choose another name.');
  return passes('name', title, `${environment} is free`);
}

function sizeCheck(pool: SizedPool, isAlone: boolean, facts: Facts): Check {
  const { spec, people, chosen } = pool;
  const key = `size ${spec.role}`;
  const title = isAlone ? 'Size' : `Size of ${spec.role}`;
  if (!chosen) return noSizeCheck(key, title, pool, facts);
  const says = `${chosen.hosts} × ${writeSize(chosen.size)}`;
  const kept = isPersonal(spec)
    ? `one for each of ${people}`
    : chosen.keepsOneSpare
      ? 'N+1 kept'
      : 'none to spare';
  return passes(key, title, `${says}, ${kept}${dearerSays(pool)}`);
}

/** What a size that was chosen by hand costs more than the one that would be taken. */
function dearerSays({ chosen, sizing }: SizedPool): string {
  if (!chosen || !sizing.chosen || chosen.size.key === sizing.chosen.size.key) return '';
  const more = chosen.monthly.minor - sizing.chosen.monthly.minor;
  if (more <= 0) return '';
  const amount = plain(money(more, chosen.monthly.currency));
  return `; ${amount} ${chosen.monthly.currency} a month more than ${writeSize(sizing.chosen.size)}`;
}

function noSizeCheck(
  key: string,
  title: string,
  { people, spec: { profile, size: rule }, unpriced, asked, sizing }: SizedPool,
  facts: Facts,
): Check {
  const { site, customer } = facts;
  if (people < 1) return blocks(key, title, 'nobody to serve', 'Give the number of people, from 1.');
  const withoutPrice = asked === undefined ? unpriced : unpriced.filter((one) => one.key === asked);
  if (withoutPrice.length > 0)
    return blocks(
      key,
      title,
      `no price for ${withoutPrice.map(writeSize).join(', ')} at ${site.name}`,
      `Give the sizes a rate on ${customer.code}’s card.`,
    );
  if (asked !== undefined && sizing.chosen)
    return blocks(
      key,
      title,
      `${sizeSays(asked, facts)} cannot be had for ${profile} work at ${site.name} in plan ${customer.plan.name}`,
      `Take ${writeSize(sizing.chosen.size)}, or choose another.`,
    );
  return blocks(
    key,
    title,
    `no size${rule === 'cheapest' ? '' : ` like ${rule}`} at ${site.name} carries ${profile} work in plan ${customer.plan.name}`,
    'Choose a lighter profile, another site, or a plan with larger sizes.',
  );
}

const sizeSays = (key: string, { site }: Facts): string => {
  const size = site.sizes.find((one) => one.key === key);
  return size ? writeSize(size) : key;
};

const PEOPLE: Fix = { of: 'customer', page: 'people', says: 'People' };

function peopleCheck(input: ProvisionInput, { customer }: Facts): Check {
  const title = 'People';
  const { people, code } = customer;
  if (people === 0)
    return mendedAt(
      PEOPLE,
      warns('people', title, `${code} has no people yet`, 'Import them; nobody can sign in until then.'),
    );
  if (input.people > people)
    return mendedAt(
      PEOPLE,
      warns(
        'people',
        title,
        `${input.people} planned, ${people} known`,
        'Import the others before they need it.',
      ),
    );
  return passes('people', title, `${input.people} of ${people} known`);
}

/** Whether the plan has what the template needs of it. */
function featureCheck({ template, customer: { plan } }: Facts): Check[] {
  const title = 'Plan';
  return (template?.document.features ?? []).map((feature) =>
    HAS[feature](plan)
      ? passes(`feature ${feature}`, title, `${plan.name} has ${feature}`)
      : blocks(
          `feature ${feature}`,
          title,
          `${plan.name} has no ${feature}, which the template needs`,
          'Take another template, or a plan that has it.',
        ),
  );
}

const HAS: Readonly<Record<Feature, (plan: PlanFacts) => boolean>> = {
  'local administrator': ({ localAdministrator }) => localAdministrator,
  'ready hosts': ({ readyHosts }) => readyHosts > 0,
};
