import { describe, expect, it } from 'vitest';
import type { HostOverride } from '../../src/contract';
import { deciding, overrideLines, untilSays } from '../../src/views/shared/overrides';

const ZONE = 'Europe/Dublin';
const UNTIL = Date.UTC(2026, 10, 24, 22);
const one = (over: Partial<HostOverride>): HostOverride => ({
  cause: 'by hand',
  attribute: 'power',
  wants: 'off',
  why: '',
  by: 'Ida Quist',
  since: 0,
  until: null,
  ...over,
});

describe('what overrides a host', () => {
  it('is told in one line for what was set together, with who, why and until when', () => {
    const overrides = [
      one({ why: 'a new disk' }),
      one({ attribute: 'accepting', wants: 'false', why: 'a new disk' }),
      one({ attribute: 'picture', wants: 'true', why: 'a new disk' }),
    ];
    expect(overrideLines({ overrides }, ZONE)).toEqual([
      'Off, drained, picture kept by Ida Quist: a new disk, until removed',
    ]);
  });

  it('is told in lines of their own for what ends at other times', () => {
    const overrides = [one({ until: UNTIL }), one({ attribute: 'accepting', wants: 'false' })];
    expect(overrideLines({ overrides }, ZONE)).toEqual([
      'Off by Ida Quist, until 24 Nov 22:00',
      'Drained by Ida Quist, until removed',
    ]);
    // By the customer's clock, whoever looks.
    expect(untilSays({ until: UNTIL }, 'Asia/Tokyo')).toBe('until 25 Nov 07:00');
  });

  it('is what wins alone, of each attribute', () => {
    const paused = one({ cause: 'customer paused', why: 'summer' });
    const byHand = one({ wants: 'on' });
    expect(deciding({ overrides: [byHand, paused] })).toEqual([byHand]);
    expect(overrideLines({ overrides: [byHand, paused] }, ZONE)).toEqual([
      'Kept on by Ida Quist, until removed',
    ]);
    expect(overrideLines({ overrides: [paused] }, ZONE)).toEqual([
      'Off while the customer is paused: summer',
    ]);
  });

  it('is nothing where nothing is set', () => expect(overrideLines({ overrides: [] }, ZONE)).toEqual([]));

  it('says of whom nobody knows any more that it was by hand', () =>
    expect(overrideLines({ overrides: [one({ by: '', why: 'set before' })] }, ZONE)).toEqual([
      'Off by hand: set before, until removed',
    ]));
});
