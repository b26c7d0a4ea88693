/** Ports of this test process's own: files and checks run at the same time, and two must not find the same one free. */
export const own = (port: number): number =>
  port + Number(process.env.TEST_PORTS ?? 0) + 3_000 * (Number(process.env.VITEST_POOL_ID ?? 1) - 1);
