import type { Sizing } from '../../contract';
import { writeSize } from '../../core/machines';
import type { BenchPoint } from '../../core/sizing';

export const siteName = ({ sites }: Pick<Sizing, 'sites'>, code: string): string =>
  sites.find((one) => one.code === code)?.name ?? code;

/** `5 × 4 vCPU · 16 GiB, spread, at Kelp Quay`. */
export const pointName = (point: BenchPoint, sizing: Pick<Sizing, 'sites'>): string =>
  `${point.hosts} × ${writeSize(point.size)}, ${point.arrival}, at ${siteName(sizing, point.site)}`;

/** How many hosts may fail, as the trade writes it. */
export const spareName = ({ spareHosts }: Pick<BenchPoint, 'spareHosts'>): string =>
  spareHosts <= 0 ? 'N' : `N+${spareHosts}`;
