import { imageKey, type ImageVersion } from '../../core/images';
import { MSP, systemScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { imagesOf, standingVersions } from './facts';

/** A build machine that is wanted no more, and why. */
export interface IdleMachine {
  /** The image, and the number of its version. */
  readonly image: string;
  readonly version: number;
  readonly why: string;
}

const SCOPE = systemScope(MSP);

/** The machines that are wanted no more: what they were for is captured, or nobody went on with it in time. */
export async function idleMachines({ db, clock }: Pick<App, 'db' | 'clock'>): Promise<IdleMachine[]> {
  const images = await imagesOf(db, [SCOPE.customer.id]);
  if (!images.some(({ line }) => line.versions.some((one) => one.machine))) return [];
  const standing = await standingVersions(db, [SCOPE.customer.id]);
  const found: IdleMachine[] = [];
  for (const { id, line } of images)
    for (const version of line.versions.filter((one) => one.machine)) {
      const key = imageKey(version.number, line.site);
      const isCaptured = standing.some((one) => one.image === id && one.key === key);
      const why = isCaptured ? 'it is captured' : await givenUp(db, id, version, clock.now());
      if (why !== undefined) found.push({ image: id, version: version.number, why });
    }
  return found;
}

async function givenUp(
  db: Connection,
  image: string,
  { keepUntil }: ImageVersion,
  now: number,
): Promise<string | undefined> {
  if (now < keepUntil) return undefined;
  const atWork = await db.row(
    "SELECT id FROM run WHERE customer_id = ? AND environment_id = ? AND state IN ('running','stopping') LIMIT 1",
    [MSP.id, image],
  );
  return atWork ? undefined : 'nobody went on with it in time';
}
