import { isOfImage } from '../../core/intent';
import { imageCodes, imageFacts } from '../images';
import { listSecrets } from '../recipe-secrets';
import { savedFor } from '../saved-steps';
import type { FactReader } from './reader';

/** Where an image is changed: who stands on its versions, and what its recipes may name. */
export const image: FactReader<'image'> = async ({ connection, scope, get }) => {
  const environment = await get('environment');
  if (!environment || !isOfImage(environment.intent)) return undefined;
  return {
    ...(await imageFacts(connection, scope, environment.intent.name)),
    secrets: (await listSecrets(connection, scope)).map(({ name }) => name),
    saved: await savedFor(connection, scope),
  };
};

export const imagesTaken: FactReader<'imagesTaken'> = ({ connection }) => imageCodes(connection);
