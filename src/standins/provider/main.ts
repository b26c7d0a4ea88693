import { addressFromEnvironment } from '../kit/database';
import { endWith } from '../kit/server';
import { startProvider } from './start';

const { server, store } = await startProvider(
  addressFromEnvironment(process.env.STANDIN_DATABASE ?? 'laager_provider'),
  Number(process.env.STANDIN_PORT ?? 4710),
  { account: process.env.PROVIDER_ACCOUNT ?? 'tern', secret: process.env.PROVIDER_SECRET ?? '' },
  process.env.PROVIDER_CATALOGUE === 'northern' ? 'northern' : 'coast',
);
endWith(server, () => store.close());
