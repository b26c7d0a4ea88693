import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { can, narrowed, RIGHTS, RIGHTS_OF, ROLES, rolesWith } from '../../src/core/access';
import { CHANGES } from '../../src/core/changes';

describe('rights', () => {
  it('are seen by everyone, and all had by somebody', () => {
    for (const role of ROLES) expect(can(RIGHTS_OF[role], 'see')).toBe(true);
    for (const right of RIGHTS) expect(rolesWith(right)).not.toEqual([]);
  });

  it('are of a role exactly where that is among the roles with them', () => {
    for (const role of ROLES)
      for (const right of RIGHTS) expect(rolesWith(right).includes(role)).toBe(can(RIGHTS_OF[role], right));
  });

  it('of a bookkeeper and an auditor change no environment', () => {
    for (const { right } of CHANGES)
      for (const role of ['bookkeeper', 'auditor'] as const) expect(can(RIGHTS_OF[role], right)).toBe(false);
  });

  it('of a token are never more than its operator’s, and always to see', () => {
    const some = fc.array(fc.oneof(fc.constantFrom(...RIGHTS), fc.string()));
    fc.assert(
      fc.property(fc.constantFrom(...ROLES), some, (role, made) => {
        const rights = narrowed(RIGHTS_OF[role], made);
        expect(rights).toContain('see');
        for (const right of rights) {
          expect(RIGHTS_OF[role]).toContain(right);
          if (right !== 'see') expect(made).toContain(right);
        }
      }),
    );
    expect(narrowed(RIGHTS_OF.lead, undefined)).toEqual(RIGHTS);
  });
});
