import { addressFromEnvironment } from '../kit/database';
import { endWith } from '../kit/server';
import { startMail } from './start';

const { server, store } = await startMail(
  addressFromEnvironment(process.env.STANDIN_DATABASE ?? 'laager_mail'),
  Number(process.env.STANDIN_PORT ?? 4712),
  Number(process.env.STANDIN_SLOW_MS ?? 0),
);
endWith(server, () => store.close());
