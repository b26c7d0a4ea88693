import type { SiteFacts } from '../../core/facts';
import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import { join, sql, type Connection } from '../db';
import { imagesAt } from '../images';
import { durationsAt } from '../runs';
import { siteFacts } from '../sites';
import type { FactReader } from './reader';

/** The site, with the images that are made here and how long steps have taken there. */
export const site: FactReader<'site'> = async ({ app, connection, scope, subject, outside }) => {
  const found = await siteFacts(connection, scope, subject.site, outside);
  const made = await imagesAt(connection, scope, subject.site);
  return {
    ...found,
    durations: await durationsAt(connection, subject.site),
    images: [...found.images, ...made.here],
    imagesElsewhere: made.elsewhere,
    ...(outside.computers ? await namesAt(app, connection, scope, subject.site, outside.computers) : {}),
  };
};

/** Names that a new computer cannot have: those that the directory knows, and those of servers at the provider. */
async function namesAt(
  { catalogue }: Pick<App, 'catalogue'>,
  connection: Connection,
  { customer }: CustomerScope,
  site: string,
  computers: readonly string[],
): Promise<Pick<SiteFacts, 'namesThere' | 'namesOfNobody'>> {
  const named = catalogue.kinds.flatMap(({ key, carriesSessions }) =>
    carriesSessions === true ? [key] : [],
  );
  const rows = await connection.rows<{ name: string; owner: string }>(
    sql`SELECT DISTINCT p.name, p.customer_id AS owner FROM present_resource p JOIN site s ON s.provider_code = p.provider_code
     WHERE s.code = ${site} AND p.kind IN (${join(named)}) AND p.present_condition <> 'gone'
       AND p.customer_id IN (${customer.id}, ${MSP.id})`,
  );
  const upper = (names: readonly string[]): string[] => [...new Set(names.map((name) => name.toUpperCase()))];
  const of = (id: string): string[] => rows.filter(({ owner }) => owner === id).map(({ name }) => name);
  return {
    namesThere: upper([...computers, ...of(customer.id)]),
    namesOfNobody: upper(of(MSP.id)),
  };
}
