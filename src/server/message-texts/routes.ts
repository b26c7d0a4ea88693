import { messageTextEndpoints } from '../../contract';
import { nothing, ok, reads, writes } from '../http';
import { dropText, keepText, listTexts } from '.';

export const messageTextRoutes = [
  reads(messageTextEndpoints.list, async ({ app }) => ok({ texts: await listTexts(app.db) })),
  writes(
    messageTextEndpoints.keep,
    ({ app, body }, scope) => keepText(app, scope, body.text),
    async (_made, { app }) => ok({ texts: await listTexts(app.db) }),
  ),
  writes(
    messageTextEndpoints.drop,
    ({ app, params }, scope) => dropText(app, scope, params.text),
    () => nothing(),
  ),
];
