/** Ports of this test process's own: files run at the same time, and two must not find the same one free. */
export const own = (port: number): number => port + 3_000 * (Number(process.env.VITEST_POOL_ID ?? 1) - 1);
