import type { Manifest } from '../manifest';
import { messageTextRoutes } from './routes';

export const messageTextsRoom: Manifest = {
  room: 'message-texts',
  tables: ['message_text'],
  routes: messageTextRoutes,
};
