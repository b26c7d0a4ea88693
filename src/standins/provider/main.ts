import { addressFromEnvironment } from '../kit/database';
import { endWith } from '../kit/server';
import { catalogueNamed } from './catalogue';
import { startProvider } from './start';

const { server, store } = await startProvider(
  addressFromEnvironment(process.env.STANDIN_DATABASE ?? 'laager_provider'),
  Number(process.env.STANDIN_PORT ?? 4710),
  { account: process.env.PROVIDER_ACCOUNT ?? 'tern', secret: process.env.PROVIDER_SECRET ?? '' },
  catalogueNamed(process.env.PROVIDER_CATALOGUE ?? 'coast'),
);
endWith(server, () => store.close());
