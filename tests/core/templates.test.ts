import Ajv2020 from 'ajv/dist/2020';
import fc from 'fast-check';
import parseJoi from 'joi-to-json';
import { describe, expect, it } from 'vitest';
import { parse } from 'yaml';
import {
  compareTemplates,
  deviationsOf,
  editedText,
  fill,
  readTemplate,
  templateSchema,
  writeTemplate,
  type TemplateDocument,
} from '../../src/core/templates';
import { imagesOfTemplate, readTemplateFile, writeTemplateFile } from '../../src/core/template-files';
import { TERM_KEYS, TERMS, termFault } from '../../src/core/terms';
import { proposed, facts, input, poolSpec, spec } from './setup/facts';
import { FOLLOWING, grown } from './situations/follow';
import { standing, standingTwo } from './situations/standing';

const STUDIO = `# For those who draw
name: Studio
naming: '{customer}-{role}{counter:2}'
inputs:
  - key: drawers # each has one
    title: People who draw
    type: count
    most: 60
    usual: 4
    short: true
  - key: pilot
    title: With a pilot
    type: yes
  - key: base
    title: Image
    type: choice
    choices: [office, drawing]
    usual: office
pools:
  - role: office
    image: =base
    people: =people
  - role: draw
    kind: personal
    image: drawing
    profile: graphics
    people: =drawers
  - role: pilot
    when: =pilot
    image: office
    track: trial
    people: =people * 0.1
    spare: 0
`;

const read = (text: string): TemplateDocument => {
  const document = readTemplate(text);
  if (!document.ok) throw new Error(JSON.stringify(document.problem));
  return document.value;
};
/** The faults of a text, as `line: what`. */
const faultsOf = (text: string): string[] => {
  const document = readTemplate(text);
  return document.ok ? [] : document.problem.map(({ line, says }) => `${line}: ${says}`);
};
const studio = read(STUDIO);

describe('a template as text', () => {
  it('fills in what is left out, and writes itself again the same', () => {
    const [office, draw] = studio.pools;
    expect(office).toMatchObject({
      mostSeats: 16,
      spare: 1,
      size: 'cheapest',
      crosses: ['clipboard', 'printers'],
    });
    expect(draw).toMatchObject({ mostSeats: 1, concurrency: 1 });
    expect(read(writeTemplate(studio))).toEqual(studio);
    // Shorter than it was: what is as usual is not written.
    expect(writeTemplate(studio)).not.toContain('mostSeats');
  });

  it('says each fault at its line', () => {
    const with_ = (from: string, to: string): string[] => faultsOf(STUDIO.replace(from, to));
    expect(with_('profile: graphics', 'profile: grafics')).toEqual([
      '26: is one of light, standard, heavy, graphics',
    ]);
    expect(with_('people: =drawers', 'people: =drawer')).toContain('27: there is no input drawer');
    expect(with_('people: =drawers', 'people: =drawer')).toContain('5: nothing says =drawers');
    expect(with_('people: =drawers', 'people: =pilot')).toContain(
      '27: pilot is answered by yes or no: say it with "when"',
    );
    expect(with_('people: =people * 0.1', 'people: =peo ple')).toEqual([
      '32: write "=people", or "=people * 0.5"',
    ]);
    expect(with_('when: =pilot', 'when: =drawers')).toContain('29: drawers is not answered by yes or no');
    expect(with_('image: =base', 'image: =drawers')).toContain('21: drawers is a figure');
    expect(with_('choices: [office, drawing]', 'choices: [office, drawing, " "]')).toHaveLength(1);
    expect(with_('usual: 4', 'usual: 61')).toEqual(['9: is a whole number from 0 to 60']);
    expect(with_('usual: office', 'usual: shed')).toEqual(['18: is one of office, drawing']);
    expect(with_('    most: 60\n', '')).toEqual([
      '5: most is missing: how many at most?'.replace('most is', 'is'),
    ]);
    expect(with_('type: yes', 'type: yes\n    most: 4')).toEqual([
      '14: does not belong to an input of type yes',
    ]);
    expect(with_('role: draw', 'role: office')).toEqual(['23: is there twice']);
    expect(with_('role: draw', 'role: Draw')).toEqual([
      '23: small letters, digits and hyphens, a letter first, 24 at most',
    ]);
    expect(with_('kind: personal', 'kind: personal\n    mostSeats: 4')).toContain(
      '25: where everyone has a host of their own, there is one seat on each',
    );
    expect(with_('{counter:2}', '')).toEqual([
      '3: a naming rule needs one counter, like {counter:2}; this one has 0',
    ]);
    expect(with_('key: drawers', 'key: people')).toContain('5: is asked of every environment by itself');
    expect(with_('spare: 0', 'spares: 0')).toEqual(['33: is not known here']);
    expect(with_('spare: 0', 'spare:')).toEqual(['33: is empty']);
  });

  it('asks two of its own in the short form at most', () => {
    const short = STUDIO.replaceAll('    type: ', '    short: true\n    type: ').replace(
      '    usual: 4\n    short: true\n',
      '    usual: 4\n',
    );
    expect(faultsOf(short)).toEqual(['17: the short form asks 2 of them at most']);
  });

  it('refuses what is no template, is too long, or grows when it is read', () => {
    expect(faultsOf('')).toHaveLength(1);
    expect(faultsOf('- a\n- b')).toEqual(['1: begins with "name:", and what it is called']);
    expect(faultsOf(`${STUDIO}#${'x'.repeat(100_001)}`)).toEqual(['1: it is longer than 100000 characters']);
    const bomb = `a: &a [x,x,x,x,x,x,x,x,x,x]\nb: &b [${'*a,'.repeat(20)}]\nc: [${'*b,'.repeat(20)}]\n`;
    expect(faultsOf(bomb)).toEqual(['1: it repeats itself too often']);
    readTemplate(STUDIO.replace('name: Studio', 'name: Studio\n__proto__: { polluted: 1 }'));
    expect('polluted' in {}).toBe(false);
  });

  it('is edited in one place, and all else stays as it was written', () => {
    const edited = editedText(STUDIO, ['pools', 1, 'diskGiB'], 256);
    expect(edited).toContain('# For those who draw');
    expect(edited).toContain('- key: drawers # each has one');
    expect(read(edited).pools[1]?.diskGiB).toBe(256);
    expect(read(editedText(edited, ['pools', 1, 'diskGiB'], undefined)).pools).toEqual(studio.pools);
    expect(editedText('a: [', ['a'], 1)).toBe('a: [');
  });

  // JSON Schema 2020-12, checked by `ajv`: what our reader takes, the published schema takes.
  it('is as its published JSON Schema says', () => {
    const { $schema: _own, ...schema } = parseJoi(templateSchema, 'open-api-3.1') as Record<string, unknown>;
    const check = new Ajv2020({ strict: false }).compile(schema);
    expect([check(parse(STUDIO)), check.errors]).toEqual([true, null]);
    expect(check(parse(STUDIO.replace('profile: graphics', 'profile: grafics')))).toBe(false);
    expect(check(parse(STUDIO.replace('most: 60', 'most: -1')))).toBe(false);
    expect(check(parse(STUDIO.replace('people: =people\n', 'people: peopel\n')))).toBe(false);
    expect(check(parse(STUDIO.replace('naming:', 'nameing:')))).toBe(false);
  });

  it('reads any text without falling over', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(...STUDIO.split('\n'), 'pools:', '  - 1', 'inputs: 3', 'pools: {}')),
        (lines) => {
          const document = readTemplate(lines.join('\n'));
          if (!document.ok) expect(document.problem.length).toBeGreaterThan(0);
        },
      ),
    );
  });
});

describe('an input of free words', () => {
  const TAGGED = `name: Office
naming: '{customer}-{role}{counter:2}'
tags:
  use: office
  cost-centre: =centre
  for: =people
inputs:
  - key: centre
    title: Cost centre
    type: text
    most: 12
pools:
  - role: office
    image: office
    people: =people
`;
  const filled = (value: string | number) =>
    fill(read(TAGGED), { people: 12, inputs: [{ key: 'centre', value }] });

  it('fills tags, and leaves one out that it fills with nothing', () => {
    const said = filled(' K-40 ');
    expect(said.ok && said.value.tags).toEqual({ use: 'office', 'cost-centre': 'K-40', for: '12' });
    const usual = fill(read(TAGGED), { people: 12 });
    expect(usual.ok && usual.value.tags).toEqual({ use: 'office', for: '12' });
  });

  it('is written again as it was read, and as its JSON Schema says', () => {
    expect(read(writeTemplate(read(TAGGED)))).toEqual(read(TAGGED));
    expect(read(TAGGED).inputs).toMatchObject([{ type: 'text', most: 12, usual: '' }]);
    const short = TAGGED.replace('    most: 12\n', '');
    expect(writeTemplate(read(short))).not.toContain('most:');
    expect(read(short).inputs).toMatchObject([{ most: 80 }]);
  });

  it.each([
    ['a'.repeat(13), 'is text of at most 12 characters'],
    [12, 'is text of at most 12 characters'],
    ['a\u202eb', 'holds a mark that turns its direction'],
  ])('refuses %j', (value, says) => expect(filled(value)).toEqual({ ok: false, problem: { centre: says } }));

  it.each([
    [['=centre\n', '=nothing\n'], '8 nothing says =centre; 5 there is no input nothing'],
    [['for: =people', 'for: =people * 2'], '6 a tag is not reckoned with: write the input alone'],
    [['image: office', 'image: =centre'], '14 centre is free text: it fills tags alone'],
    [['people: =people\n', 'people: =centre\n'], '15 centre is free text: it fills tags alone'],
    [['most: 12', 'most: 400'], '11 is from 1 to 120'],
    [['most: 12', 'least: 1'], '11 does not belong to an input of type text'],
    [
      [
        'most: 12',
        'usual: a long one indeed, which nobody would write into a field that is as short as this one',
      ],
      '11 is text of at most 80 characters',
    ],
    [['    type: text\n    most: 12', '    type: yes'], '5 centre is answered by yes or no'],
  ])('tells what is wrong with %j at its line', ([from = '', to = ''], says) => {
    const found = readTemplate(TAGGED.replace(from, to));
    expect((found.ok ? [] : found.problem.map((one) => `${one.line} ${one.says}`)).join('; ')).toBe(says);
  });
});

describe('a filled template', () => {
  it('has its figures from what was filled in, rounded up to whole people', () => {
    const filled = fill(studio, {
      people: 43,
      inputs: [
        { key: 'pilot', value: true },
        { key: 'drawers', value: 7 },
      ],
    });
    expect(filled.ok && filled.value.pools.map(({ role, people, image }) => [role, people, image])).toEqual([
      ['office', 43, 'office'],
      ['draw', 7, 'drawing'],
      ['pilot', 5, 'office'],
    ]);
    // A tenth of thirty is three, whatever arithmetic in binary makes of it.
    const tenth = fill(studio, { people: 30, inputs: [{ key: 'pilot', value: true }] });
    expect(tenth.ok && tenth.value.pools[2]?.people).toBe(3);
  });

  it('has no pool that is not wanted, or that nobody comes to', () => {
    const roles = (inputs: { key: string; value: number | boolean }[]) => {
      const filled = fill(studio, { people: 20, inputs });
      return filled.ok ? filled.value.pools.map(({ role }) => role) : [];
    };
    expect(roles([])).toEqual(['office', 'draw']);
    expect(roles([{ key: 'pilot', value: true }])).toEqual(['office', 'draw', 'pilot']);
    expect(roles([{ key: 'drawers', value: 0 }])).toEqual(['office']);
  });

  it('refuses beside each input what it does not allow', () => {
    const refused = (key: string, value: string | number | boolean) => {
      const filled = fill(studio, { people: 20, inputs: [{ key, value }] });
      return filled.ok ? undefined : filled.problem;
    };
    expect(refused('drawers', 61)).toEqual({ drawers: 'is a whole number from 0 to 60' });
    expect(refused('drawers', 1.5)).toEqual({ drawers: 'is a whole number from 0 to 60' });
    expect(refused('drawers', '3')).toEqual({ drawers: 'is a whole number from 0 to 60' });
    expect(refused('base', 'shed')).toEqual({ base: 'is one of office, drawing' });
    expect(refused('pilot', 'yes')).toEqual({ pilot: 'is yes or no' });
    expect(refused('nothing', 1)).toEqual({ nothing: 'is not asked by this template' });
    const seats = read(STUDIO.replace('people: =drawers', 'people: =drawers\n    diskGiB: =drawers * 1000'));
    const filled = fill(seats, { people: 20, inputs: [{ key: 'drawers', value: 20 }] });
    expect(filled.ok ? '' : filled.problem.drawers).toBe(
      'disk of draw, 20000, is a whole number from 1 to 16384',
    );
  });

  it('has each term usual within its own limits', () => {
    for (const key of TERM_KEYS)
      if (TERMS[key].usual !== undefined)
        expect([key, termFault(key, TERMS[key].usual)]).toEqual([key, undefined]);
  });
});

describe('two revisions', () => {
  it('are compared by what they mean', () => {
    const after = read(
      STUDIO.replace('profile: graphics', 'profile: heavy\n    diskGiB: 256')
        .replace('most: 60', 'most: 80')
        .replace('name: Studio', 'name: Studio # the same')
        .replace('role: pilot', 'role: trials'),
    );
    expect(compareTemplates(studio, after)).toEqual([
      {
        where: 'input drawers',
        what: 'asked',
        before: 'People who draw: 0 to 60, usually 4; in the short form',
        after: 'People who draw: 0 to 80, usually 4; in the short form',
      },
      { where: 'pool draw', what: 'Work', before: 'graphics', after: 'heavy' },
      { where: 'pool draw', what: 'Disk', before: '128 GiB', after: '256 GiB' },
      { where: 'pool trials', what: 'pool', before: '', after: 'shared, office, for people × 0.1' },
      { where: 'pool pilot', what: 'pool', before: 'shared, office, for people × 0.1', after: '' },
    ]);
    expect(compareTemplates(studio, studio)).toEqual([]);
  });
});

describe('what an environment has otherwise than its template gave it', () => {
  const of = (from: typeof standing) => {
    const intent = from.environment?.intent;
    return intent ? deviationsOf(intent, from.site.sizes) : [];
  };

  it('is nothing at first, and each thing by itself later', () => {
    expect(of(standing)).toEqual([]);
    expect(of(standingTwo)).toEqual([]);
    expect(of(grown)).toEqual([
      { key: 'desks.diskGiB', pool: 'desks', what: 'Disk', given: '128 GiB', is: '256 GiB' },
    ]);
  });

  it('is what was chosen otherwise from the first', () => {
    const { intent } = proposed(
      'provision',
      { ...input, pools: [{ role: 'desks', profile: 'light' }] },
      facts,
    );
    expect(intent && deviationsOf(intent, []).map(({ key }) => key)).toContain('desks.profile');
  });

  it('is put back or kept, one by one, and is none after all was put back', () => {
    const after = (name: string) => {
      const found = FOLLOWING.find(([one]) => one === name);
      if (!found) throw new Error(name);
      const { intent, refused } = proposed(found[1], found[2], found[3]);
      return {
        intent,
        refused,
        left: intent ? deviationsOf(intent, found[3].site.sizes).map(({ key }) => key) : [],
      };
    };
    expect(after('a bigger disk put back').left).toEqual([]);
    expect(after('a bigger disk kept').left).toEqual(['desks.diskGiB']);
    expect(after('a bigger disk kept').intent?.pools[0]?.diskGiB).toBe(256);
    expect(after('a pool more').intent?.pools.map(({ role }) => role)).toEqual(['desks', 'lab']);
    expect(after('a pool more, not taken').left).toEqual(['lab']);
    expect(after('more room for what people keep, and drives may cross').intent?.template).toMatchObject({
      revision: 2,
    });
    expect(after('what was filled in stays').intent?.template?.inputs).toEqual([
      { key: 'work', value: 'light' },
    ]);
    expect(after('what is filled in otherwise').intent?.pools[0]?.profile).toBe('heavy');
    expect(after('what is asked no more').refused).toEqual({
      'inputs.play': 'is not asked by this template',
    });
    expect(after('another template').refused).toEqual({ environment: 'came from no template' });
  });

  it('makes ready for some, and keeps room for all', () => {
    const { intent } = proposed('provision', { ...input, ready: 6 }, facts);
    const [pool] = intent?.pools ?? [];
    // Three seats each: two hosts for six and one to spare; five for twelve, twice that at most.
    expect([pool?.hosts.length, pool?.people, pool?.ceiling]).toEqual([3, 12, 10]);
  });

  it('keeps no host spare where none is wanted', () => {
    const document = { ...spec, pools: [{ ...poolSpec, spare: 0 }] };
    const { intent, checks } = proposed('provision', input, {
      ...facts,
      template: { code: 'x', revision: 1, document },
    });
    expect(intent?.pools[0]?.hosts).toHaveLength(4);
    expect(checks.find(({ key }) => key === 'size desks')?.says).toContain('none to spare');
  });
});

describe('a file of templates', () => {
  const image = {
    code: 'office',
    name: 'Office',
    says: '',
    from: 'Ostrel 12',
    recipe: 'steps:\n  - check: it starts\n',
    keep: 2,
    diskGiB: 64,
    vcpu: 2,
    memoryGiB: 8,
    licences: [],
  };
  const file = { templates: [{ code: 'studio', note: 'first', text: STUDIO }], images: [image] };

  it('is read again as it was written, comments and all', () =>
    expect(readTemplateFile(writeTemplateFile(file))).toEqual({ ok: true, value: file }));

  it('names every image that the templates may come to', () =>
    expect(imagesOfTemplate(studio)).toEqual(['drawing', 'office']));

  it('says where in which template a fault is', () => {
    const bad = {
      ...file,
      templates: [{ ...file.templates[0], text: STUDIO.replace('graphics', 'grafics') }],
    };
    const text = writeTemplateFile(bad as typeof file);
    const found = readTemplateFile(text);
    expect(found.ok ? [] : found.problem.map(({ says, path }) => [path, says])).toEqual([
      ['templates.0.text', 'its line 26: is one of light, standard, heavy, graphics'],
    ]);
    expect(readTemplateFile('templates: []').ok).toBe(false);
    expect(readTemplateFile('').ok).toBe(false);
  });
});
