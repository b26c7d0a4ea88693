import { createHash } from 'node:crypto';
import { writeBlock } from '../../core/addressing';
import type { ProvisionWish } from '../../core/ground';
import { mayBegin } from '../../core/preflight';
import { proposeProvision, type ProvisionProposal } from '../../core/proposal';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { insertMany, newId, takeTurn, transaction, type Connection } from '../db';
import { askDirectory, newestRevision, provisionGround, type FullGround, type TemplateView } from '../ground';
import { conflict, Problem } from '../problem';
import { createRun, type RunStep } from '../runs';
import { trySignIn } from '../provider';

export interface ProvisionRequest extends ProvisionWish {
  readonly template: string;
  readonly site: string;
}

export interface StampedProposal {
  readonly proposal: ProvisionProposal;
  /** What was proposed, in short: confirming sends it back, so that nothing else is built than was seen. */
  readonly stamp: string;
}

/** What would be made, from the facts of this moment; the provider's credentials are tried for real. */
export async function proposeHere(
  app: App,
  scope: CustomerScope,
  request: ProvisionRequest,
): Promise<StampedProposal> {
  await trySignIn(app.db, app.provider, app.clock.now());
  const template = await newestRevision(app.db, request.template);
  const ground = await provisionGround(app, app.db, scope, request.site, await askDirectory(app, scope));
  const proposal = proposeProvision(request, template.spec, ground);
  return { proposal, stamp: stampOf(proposal) };
}

/** The parts of a proposal that people agree to: hosts, addresses, nodes and money. */
export function stampOf(proposal: ProvisionProposal): string {
  const agreed = {
    size: proposal.chosen?.size.key,
    hosts: proposal.hosts,
    subnet: proposal.subnet,
    monthly: proposal.monthly,
  };
  return createHash('sha256').update(JSON.stringify(agreed)).digest('hex').slice(0, 16);
}

/**
 * Begins to provision. The proposal is computed again under the customer's and the site's lock: two confirmations at
 * once cannot take the same name, address or room.
 * @returns the ids of the run and of the environment
 * @throws Problem 422 with the checks that block, 409 with the new proposal when it is not what the stamp was for
 */
export async function provision(
  app: App,
  scope: CustomerScope,
  request: ProvisionRequest & { readonly stamp: string; readonly reason: string },
): Promise<{ run: string; environment: string }> {
  await trySignIn(app.db, app.provider, app.clock.now());
  const template = await newestRevision(app.db, request.template);
  const directory = await askDirectory(app, scope);
  return transaction(app.db, async (connection) => {
    await takeTurn(connection, 'customer', { id: scope.customer.id });
    await takeTurn(connection, 'site', { code: request.site });
    const ground = await provisionGround(app, connection, scope, request.site, directory);
    const proposal = proposeProvision(request, template.spec, ground);
    if (!mayBegin(proposal.checks)) {
      const blocking = proposal.checks.filter((check) => check.state === 'blocks');
      throw new Problem(
        422,
        'preflight',
        blocking.map((check) => `${check.title}: ${check.says}`).join('; '),
        {
          extra: { checks: proposal.checks },
        },
      );
    }
    const stamp = stampOf(proposal);
    if (stamp !== request.stamp)
      throw conflict('changed', 'What would be built has changed since you looked.', { proposal, stamp });
    return build(app, connection, scope, request, template, ground, proposal);
  });
}

async function build(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  request: ProvisionRequest & { readonly reason: string },
  template: TemplateView,
  ground: FullGround,
  proposal: ProvisionProposal,
): Promise<{ run: string; environment: string }> {
  const { chosen, subnet } = proposal;
  const { block } = ground.customer;
  if (!chosen || subnet === undefined || !block)
    throw new Error('a proposal that may begin has a size and a subnet');
  const customerId = scope.customer.id;
  const now = app.clock.now();
  const cidr = writeBlock(block);
  if (ground.blockIsNew)
    await connection.write(
      'INSERT INTO address_block (customer_id, id, site_code, cidr) VALUES (?, ?, ?, ?)',
      [customerId, newId(), request.site, cidr],
    );
  const networkId = await networkAt(connection, customerId, request.site, cidr);
  const environmentId = newId();
  await connection.write(
    `INSERT INTO environment (customer_id, id, name, site_code, template_code, revision, wanted, people, created_at)
     VALUES (?, ?, ?, ?, ?, ?, 'serving', ?, ?)`,
    [
      customerId,
      environmentId,
      request.environment,
      request.site,
      template.code,
      template.revision,
      request.people,
      now,
    ],
  );
  const poolId = newId();
  const { spec } = template;
  await connection.write(
    `INSERT INTO pool (customer_id, id, environment_id, network_id, name, image, size, seats, arrival, disk_gib,
       subnet_cidr, share_gib, items) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
    [
      customerId,
      poolId,
      environmentId,
      networkId,
      spec.role,
      spec.image,
      chosen.size.key,
      chosen.seats,
      spec.arrival,
      spec.diskGiB,
      subnet,
      proposal.shareGiB,
      JSON.stringify(spec.items),
    ],
  );
  const hostIds = new Map(proposal.hosts.map((host) => [host.name, newId()]));
  await insertMany(
    connection,
    'host',
    ['customer_id', 'id', 'pool_id', 'name', 'address', 'node', 'wanted_power', 'wanted_accepting'],
    proposal.hosts.map((host) => [
      customerId,
      hostIds.get(host.name) ?? '',
      poolId,
      host.name,
      host.address,
      host.node ?? null,
      'on',
      true,
    ]),
  );
  const steps = proposal.steps.map((step): RunStep => {
    if (step.kind === 'network') return { ...step, wantedId: networkId };
    return { ...step, wantedId: hostIds.get(step.subject) ?? poolId };
  });
  const run = await createRun(
    connection,
    scope,
    {
      kind: 'provision',
      environmentId,
      title: `Provision ${request.environment}`,
      steps,
      atATime: spec.atATime,
      failureLimit: spec.failureLimit,
      impact: proposal.impact,
      reason: request.reason,
      before: { environment: null },
      after: {
        environment: request.environment,
        site: request.site,
        template: `${template.code} revision ${template.revision}`,
        people: request.people,
        size: chosen.size.key,
        hosts: proposal.hosts.map((host) => host.name),
        subnet,
        monthly: proposal.monthly,
      },
    },
    now,
    app.clock.wall(),
  );
  await connection.write('UPDATE tally SET stale = TRUE WHERE customer_id = ?', [customerId]);
  return { run, environment: environmentId };
}

/** The customer's network at a site: the one there is, or a new one. */
async function networkAt(
  connection: Connection,
  customerId: string,
  site: string,
  cidr: string,
): Promise<string> {
  const known = await connection.row<{ id: string }>(
    'SELECT id FROM network WHERE customer_id = ? AND site_code = ? AND returned_at IS NULL',
    [customerId, site],
  );
  if (known) return known.id;
  const id = newId();
  await connection.write('INSERT INTO network (customer_id, id, site_code, cidr) VALUES (?, ?, ?, ?)', [
    customerId,
    id,
    site,
    cidr,
  ]);
  return id;
}
