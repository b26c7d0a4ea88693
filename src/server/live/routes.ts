import { liveEndpoints } from '../../contract';
import { reads } from '../http';
import { eventStream } from './stream';

export const liveRoutes = [
  reads(liveEndpoints.events, ({ app, request }, scope) => eventStream(app, request, scope, undefined)),
  reads(liveEndpoints.eventsInside, ({ app, request }, inner, outer) =>
    eventStream(app, request, outer, inner.customer),
  ),
];
