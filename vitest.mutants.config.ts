import { BaseSequencer, type TestSpecification } from 'vitest/node';
import { defineConfig } from 'vitest/config';

/** Those that take long, after those that see most errors anyway: the first test that sees one is the last that is run. */
const SLOW = ['placement.test.ts', 'proposal-properties.test.ts', 'rating.test.ts'];

class QuickFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const rank = ({ moduleId }: TestSpecification): number =>
      SLOW.some((name) => moduleId.endsWith(`/${name}`)) ? 2 : moduleId.endsWith('/whole.test.ts') ? 0 : 1;
    return [...files].sort((a, b) => rank(a) - rank(b) || (a.moduleId < b.moduleId ? -1 : 1));
  }
}

/** The tests that deliberate errors in the core are held against. */
export default defineConfig({
  test: {
    include: ['tests/core/**/*.test.ts', 'tests/reference/**/*.test.ts'],
    sequence: { sequencer: QuickFirst },
    testTimeout: 120_000,
    env: { LAAGER_MUTANTS: '1' },
  },
});
