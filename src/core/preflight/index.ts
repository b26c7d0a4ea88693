import type { SubnetPlan } from '../addressing';
import type { NamePlan } from '../naming';
import type { Placement } from '../placement';
import type { ProvisionGround, ProvisionWish, TemplateSpec } from '../ground';
import type { MeterNeed } from '../rating';
import type { Result } from '../result';
import { writeSize, type Alternative } from '../sizing';

/** One check before a change. `do` says what to do where it does not pass. */
export interface Check {
  readonly key: CheckKey;
  readonly title: string;
  readonly state: 'passes' | 'warns' | 'blocks';
  readonly says: string;
  readonly do?: string;
}

export type CheckKey =
  | 'name'
  | 'customer'
  | 'size'
  | 'plan'
  | 'names'
  | 'addresses'
  | 'image'
  | 'capacity'
  | 'credentials'
  | 'directory'
  | 'rates'
  | 'people';

export interface ProvisionFindings {
  readonly wish: ProvisionWish;
  readonly spec: TemplateSpec;
  readonly ground: ProvisionGround;
  readonly chosen: Alternative | undefined;
  readonly names: NamePlan;
  readonly subnet: Result<SubnetPlan>;
  readonly placement: Placement;
  readonly unpriced: readonly MeterNeed[];
}

const passes = (key: CheckKey, title: string, says: string): Check => ({ key, title, state: 'passes', says });
const warns = (key: CheckKey, title: string, says: string, action: string): Check => ({
  key,
  title,
  state: 'warns',
  says,
  do: action,
});
const blocks = (key: CheckKey, title: string, says: string, action: string): Check => ({
  key,
  title,
  state: 'blocks',
  says,
  do: action,
});

/** Every check before provisioning, in the order in which one would fix them. */
export function checkProvision(findings: ProvisionFindings): Check[] {
  return [
    customerCheck(findings),
    nameCheck(findings),
    sizeCheck(findings),
    planCheck(findings),
    peopleCheck(findings),
    namesCheck(findings),
    addressCheck(findings),
    imageCheck(findings),
    capacityCheck(findings),
    credentialsCheck(findings),
    directoryCheck(findings),
    ratesCheck(findings),
  ];
}

/** Whether a change may begin: nothing blocks. */
export const mayBegin = (checks: readonly Check[]): boolean =>
  checks.every((check) => check.state !== 'blocks');

function customerCheck({ ground }: ProvisionFindings): Check {
  const title = 'Customer';
  const { state, code } = ground.customer;
  if (state === 'leaving' || state === 'retired')
    return blocks('customer', title, `${code} is ${state}`, 'Nothing new is built for a customer who goes.');
  if (state === 'paused')
    return warns('customer', title, `${code} is paused`, 'Ask whether they want to pay for this now.');
  return passes('customer', title, `${code} is ${state}`);
}

function nameCheck({ wish, ground }: ProvisionFindings): Check {
  const title = 'Environment name';
  if (!/^[a-z][a-z0-9-]{0,23}$/.test(wish.environment))
    return blocks(
      'name',
      title,
      wish.environment === '' ? 'has no name yet' : `"${wish.environment}" cannot be used`,
      'Begin with a letter; up to 24 small letters, digits and hyphens.',
    );
  if (ground.customer.environments.includes(wish.environment))
    return blocks(
      'name',
      title,
      `${ground.customer.code} has ${wish.environment} already`,
      'Choose another name.',
    );
  return passes('name', title, `${wish.environment} is free`);
}

function sizeCheck({ chosen, wish, ground }: ProvisionFindings): Check {
  const title = 'Size';
  if (chosen) {
    if (chosen.keepsOneSpare)
      return passes('size', title, `${chosen.hosts} × ${writeSize(chosen.size)}, N+1 kept`);
    return warns('size', title, 'no seat is left when one host fails', 'Take a size that keeps N+1.');
  }
  if (wish.people < 1) return blocks('size', title, 'nobody to serve', 'Give the number of people, from 1.');
  return blocks(
    'size',
    title,
    `no size at ${ground.site.name} carries ${wish.profile} work in plan ${ground.customer.plan.name}`,
    'Choose a lighter profile, another site, or a plan with larger sizes.',
  );
}

function planCheck({ chosen, wish, ground }: ProvisionFindings): Check {
  const title = 'Plan limits';
  const { plan, hosts } = ground.customer;
  const after = hosts + (chosen?.hosts ?? 0);
  if (after > plan.mostHosts)
    return blocks(
      'plan',
      title,
      `${after} hosts; plan ${plan.name} allows ${plan.mostHosts}`,
      'Fewer people, larger hosts, or a larger plan.',
    );
  if (wish.people > plan.mostPeople)
    return blocks(
      'plan',
      title,
      `${wish.people} people; plan ${plan.name} allows ${plan.mostPeople}`,
      'Fewer people or a larger plan.',
    );
  return passes('plan', title, `${after} of ${plan.mostHosts} hosts in plan ${plan.name}`);
}

function peopleCheck({ wish, ground }: ProvisionFindings): Check {
  const title = 'People';
  const { people, code } = ground.customer;
  if (people === 0)
    return warns('people', title, `${code} has no people yet`, 'Import them; nobody can sign in until then.');
  if (wish.people > people)
    return warns(
      'people',
      title,
      `${wish.people} planned, ${people} known`,
      'Import the others before they need it.',
    );
  return passes('people', title, `${wish.people} of ${people} known`);
}

function namesCheck({ names, spec }: ProvisionFindings): Check {
  const title = 'Computer names';
  const [fault] = names.faults;
  if (fault !== undefined) return blocks('names', title, fault, 'Mend the naming rule in the template.');
  if (names.missing > 0)
    return blocks(
      'names',
      title,
      `${spec.naming} runs out: ${names.missing} hosts would have no name`,
      'Widen the counter in the naming rule.',
    );
  const [first] = names.names;
  return passes('names', title, first === undefined ? 'none needed' : `${first} and on, legal and free`);
}

function addressCheck({ subnet }: ProvisionFindings): Check {
  const title = 'Addresses';
  if (!subnet.ok)
    return blocks('addresses', title, subnet.problem, 'Give the customer a larger block at this site.');
  return passes('addresses', title, `room for ${subnet.value.room} hosts`);
}

function imageCheck({ spec, ground }: ProvisionFindings): Check {
  const title = 'Image';
  if (ground.site.images.includes(spec.image))
    return passes('image', title, `${spec.image} is at ${ground.site.name}`);
  return blocks(
    'image',
    title,
    `${spec.image} is not at ${ground.site.name}`,
    'Copy the image there, or choose another site.',
  );
}

function capacityCheck({ placement, chosen, ground }: ProvisionFindings): Check {
  const title = ground.site.kind === 'own nodes' ? 'Node capacity' : 'Quota';
  const { quota } = ground.site;
  if (quota) {
    const needed = (chosen?.hosts ?? 0) * (chosen?.size.vcpu ?? 0);
    const free = quota.vcpu - quota.vcpuUsed;
    if (needed > free)
      return blocks(
        'capacity',
        title,
        `${needed} vCPU needed, ${free} of ${quota.vcpu} free`,
        'Ask for more quota.',
      );
    return passes('capacity', title, `${needed} of ${free} free vCPU`);
  }
  const [left] = placement.left;
  if (left)
    return blocks(
      'capacity',
      title,
      `${placement.left.length} of ${placement.left.length + placement.placed.length} hosts fit nowhere: ${left.why}`,
      'Choose another site or free a node.',
    );
  const nodes = new Set(placement.placed.map((host) => host.node)).size;
  return passes('capacity', title, `all fit, on ${nodes} ${nodes === 1 ? 'node' : 'nodes'}`);
}

function credentialsCheck({ ground }: ProvisionFindings): Check {
  const title = 'Credentials';
  const { worked, says } = ground.site.signIn;
  if (!worked)
    return blocks('credentials', title, says, 'Mend the credentials of the provider under Ground.');
  return passes('credentials', title, says);
}

function directoryCheck({ ground }: ProvisionFindings): Check {
  const title = 'Directory';
  const { worked, says } = ground.site.directory;
  if (!worked)
    return blocks('directory', title, says, 'Hosts could not join: see that the directory answers.');
  return passes('directory', title, says);
}

function ratesCheck({ unpriced }: ProvisionFindings): Check {
  const title = 'Rates';
  const [first] = unpriced;
  if (first)
    return blocks('rates', title, `no rate for ${first.meter} holds today`, 'Add it to the rate card.');
  return passes('rates', title, 'all priced');
}
