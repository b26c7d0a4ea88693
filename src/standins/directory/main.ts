import { addressFromEnvironment } from '../kit/database';
import { endWith } from '../kit/server';
import { startDirectory } from './start';

const { server, store } = await startDirectory(
  addressFromEnvironment(process.env.STANDIN_DATABASE ?? 'laager_directory'),
  Number(process.env.STANDIN_PORT ?? 4711),
  process.env.DIRECTORY_KEY ?? '',
  Number(process.env.STANDIN_SLOW_MS ?? 0),
);
endWith(server, () => store.close());
