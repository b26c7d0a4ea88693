import { clockEndpoints } from '../../contract';
import { ok, reads } from '../http';

export const clockRoutes = [reads(clockEndpoints.read, ({ app }) => ok(app.clock.view()))];
