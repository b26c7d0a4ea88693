import type { Plan } from '../../contract';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { write, type WriteHouse } from '../write';

export async function listPlans(db: Connection): Promise<Plan[]> {
  const rows = await db.rows<Omit<Plan, 'sizes'> & { sizes: string }>(
    'SELECT code, name, most_hosts AS mostHosts, most_people AS mostPeople, sizes FROM plan ORDER BY code',
  );
  return rows.map((row) => ({ ...row, sizes: JSON.parse(row.sizes) as string[] }));
}

/** Makes a plan, or changes what one allows from now on. */
export async function keepPlan(house: WriteHouse, scope: Scope, plan: Plan): Promise<void> {
  await write(house, scope, [], async (tx) => {
    const before = (await listPlans(tx)).find((one) => one.code === plan.code);
    await tx.write(
      `INSERT INTO plan (code, name, most_hosts, most_people, sizes) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE name = VALUES(name), most_hosts = VALUES(most_hosts), most_people = VALUES(most_people),
         sizes = VALUES(sizes)`,
      [plan.code, plan.name, plan.mostHosts, plan.mostPeople, JSON.stringify(plan.sizes)],
    );
    await tx.record({
      action: before ? 'change plan' : 'make plan',
      subject: plan.name,
      before,
      after: plan,
      topic: 'ground',
      id: plan.code,
    });
  });
}
