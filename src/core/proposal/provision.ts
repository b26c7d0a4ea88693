import type { ProvisionGround, ProvisionWish, TemplateSpec } from '../ground';
import { hostAddresses, planSubnet, writeAddress, writeBlock, type SubnetPlan } from '../addressing';
import { sum, type Money } from '../money';
import { parseRule, planNames, type NamePlan } from '../naming';
import { place, type Placement } from '../placement';
import { checkProvision, type Check } from '../preflight';
import { HOURS_A_MONTH, monthlyCost, rateFor, type CostLine, type MeterNeed } from '../rating';
import { refuse, type Result } from '../result';
import { compareSizes, WORK_PROFILES, type Alternative, type SizingAnswer } from '../sizing';
import type { Impact } from './impact';
import { schedule } from './schedule';
import { expectedSeconds, PROVISION_STAGES, type ProposedStep } from './steps';

export interface ProposedHost {
  readonly name: string;
  readonly address: string;
  /** Undefined at a hosted region, which shows no nodes. */
  readonly node: string | undefined;
  readonly zone: string | undefined;
}

export interface ProvisionProposal {
  readonly sizing: SizingAnswer;
  /** Undefined when nothing fits; then a check blocks and says so. */
  readonly chosen: Alternative | undefined;
  readonly hosts: readonly ProposedHost[];
  readonly network: string | undefined;
  readonly subnet: string | undefined;
  readonly room: number;
  readonly shareGiB: number;
  readonly cost: readonly CostLine[];
  readonly monthly: Money;
  readonly steps: readonly ProposedStep[];
  readonly seconds: number;
  readonly critical: readonly string[];
  readonly checks: readonly Check[];
  readonly impact: Impact;
}

/** What provisioning an environment from a template would make, cost and take, and every check before it. */
export function proposeProvision(
  wish: ProvisionWish,
  spec: TemplateSpec,
  ground: ProvisionGround,
): ProvisionProposal {
  const sizing = sizeUp(wish, spec, ground);
  const chosen = choose(wish, sizing);
  const count = chosen?.hosts ?? 0;
  const names = nameHosts(count, wish, spec, ground);
  const subnet = subnetFor(count, spec, ground);
  const placement = placeHosts(chosen, names.names, spec, ground);
  const hosts = hostsOf(names.names, subnet, placement, ground);
  const shareGiB = wish.people * spec.shareGiBPerPerson;
  const cost = monthlyCost(
    needs(chosen, wish, spec, shareGiB),
    ground.rates,
    ground.now,
    ground.customer.currency,
  );
  const monthly = sum(
    cost.lines.map((line) => line.amount),
    ground.customer.currency,
  );
  const steps = provisionSteps(wish.environment, spec, hosts);
  const plan = schedule(steps, spec.atATime);
  const seconds = plan.ok ? plan.value.finish : 0;
  return {
    sizing,
    chosen,
    hosts,
    network: ground.customer.block && writeBlock(ground.customer.block),
    subnet: subnet.ok ? writeBlock(subnet.value.subnet) : undefined,
    room: subnet.ok ? subnet.value.room : 0,
    shareGiB,
    cost: cost.lines,
    monthly,
    steps,
    seconds,
    critical: plan.ok ? plan.value.critical : [],
    checks: checkProvision({ wish, spec, ground, chosen, names, subnet, placement, unpriced: cost.unpriced }),
    impact: { people: wish.people, hosts: hosts.length, monthly, seconds, undo: 'can be undone' },
  };
}

function sizeUp(wish: ProvisionWish, spec: TemplateSpec, ground: ProvisionGround): SizingAnswer {
  const { plan, currency } = ground.customer;
  const allowed = ground.site.sizes.filter(
    (size) => plan.sizes.length === 0 || plan.sizes.includes(size.key),
  );
  const priced = allowed.flatMap((size) => {
    const rate = rateFor(ground.rates, 'host', size.key, ground.now);
    return rate ? [{ ...size, hourly: rate.price }] : [];
  });
  return compareSizes({
    people: wish.people,
    concurrency: spec.concurrency,
    profile: WORK_PROFILES[wish.profile],
    sizes: priced,
    currency,
    hoursOn: HOURS_A_MONTH,
    mostSeats: spec.mostSeats,
  });
}

function choose(wish: ProvisionWish, sizing: SizingAnswer): Alternative | undefined {
  if (wish.size === undefined) return sizing.chosen;
  return (
    sizing.alternatives.find((one) => one.size.key === wish.size && one.keepsOneSpare) ??
    sizing.alternatives.find((one) => one.size.key === wish.size)
  );
}

function nameHosts(
  count: number,
  wish: ProvisionWish,
  spec: TemplateSpec,
  ground: ProvisionGround,
): NamePlan {
  const rule = parseRule(spec.naming);
  if (!rule.ok) return { names: [], missing: count, faults: [rule.problem] };
  const context = {
    customer: ground.customer.code,
    environment: wish.environment,
    site: ground.site.code,
    role: spec.role,
  };
  return planNames(rule.value, context, count, ground.customer.namesTaken);
}

function subnetFor(count: number, spec: TemplateSpec, ground: ProvisionGround): Result<SubnetPlan> {
  const { block, subnets } = ground.customer;
  if (!block) return refuse('the customer has no address block at this site');
  return planSubnet(block, subnets, Math.ceil(count * spec.ceilingFactor), ground.site.reservedAddresses);
}

function placeHosts(
  chosen: Alternative | undefined,
  names: readonly string[],
  spec: TemplateSpec,
  ground: ProvisionGround,
): Placement {
  if (!chosen || ground.site.kind === 'hosted region') return { placed: [], left: [] };
  const wanted = names.map((name) => ({
    id: name,
    customer: ground.customer.code,
    pool: `${ground.customer.code}/${spec.role}`,
    vcpu: chosen.size.vcpu,
    memoryGiB: chosen.size.memoryGiB,
    diskGiB: spec.diskGiB,
  }));
  return place(wanted, ground.site.nodes, ground.site.present, 'spread');
}

function hostsOf(
  names: readonly string[],
  subnet: Result<SubnetPlan>,
  placement: Placement,
  ground: ProvisionGround,
): ProposedHost[] {
  if (!subnet.ok) return [];
  const addresses = hostAddresses(
    subnet.value.subnet,
    ground.site.reservedAddresses,
    new Set(),
    names.length,
  );
  const nodeOf = new Map(placement.placed.map((host) => [host.id, host.node]));
  const zoneOf = new Map(ground.site.nodes.map((node) => [node.id, node.zone]));
  return names.slice(0, addresses.length).map((name, index) => {
    const node = nodeOf.get(name);
    return {
      name,
      address: writeAddress(addresses[index] ?? 0),
      node,
      zone: node === undefined ? undefined : zoneOf.get(node),
    };
  });
}

function needs(
  chosen: Alternative | undefined,
  wish: ProvisionWish,
  spec: TemplateSpec,
  shareGiB: number,
): MeterNeed[] {
  if (!chosen) return [];
  return [
    { meter: 'host', size: chosen.size.key, quantity: chosen.hosts },
    { meter: 'disk', size: null, quantity: chosen.hosts * spec.diskGiB },
    { meter: 'share', size: null, quantity: shareGiB },
    { meter: 'licence', size: null, quantity: wish.people },
  ];
}

function provisionSteps(
  environment: string,
  spec: TemplateSpec,
  hosts: readonly ProposedHost[],
): ProposedStep[] {
  const step = (kind: ProposedStep['kind'], subject: string, after: readonly string[]): ProposedStep => ({
    key: `${kind}:${subject}`,
    kind,
    subject,
    needs: after,
    seconds: expectedSeconds[kind],
  });
  const network = step('network', environment, []);
  const subnet = step('subnet', spec.role, [network.key]);
  const share = step('share', spec.role, [network.key]);
  const pool = step('pool', spec.role, [network.key]);
  const perHost = hosts.flatMap((host) => {
    let before = subnet.key;
    return PROVISION_STAGES.map((kind) => {
      const own = step(kind, host.name, kind === 'register' ? [before, pool.key] : [before]);
      before = own.key;
      return own;
    });
  });
  const registered = perHost.filter((one) => one.kind === 'register').map((one) => one.key);
  const publish = step('publish', spec.role, [share.key, ...registered]);
  const health = step('health', spec.role, [publish.key]);
  return [network, subnet, share, pool, ...perHost, publish, health];
}
