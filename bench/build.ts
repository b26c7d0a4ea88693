import { provision } from '../src/core/changes';
import { place, volumeBound, type HostNeed, type Node } from '../src/core/placement';
import { propose } from '../src/core/planning';
import { RESOURCE_KINDS } from '../src/core/resources';
import {
  editedText,
  readTemplate,
  usualPool,
  writeTemplate,
  type TemplateDocument,
} from '../src/core/templates';
import { facts } from './proposal';

/** What building is made of: placing, proposing, and what stands of a template's messages at each keystroke. */
export function buildBench(): void {
  placementBench();
  poolsBench();
  templateBench();
}

const median = (times: readonly number[]): number =>
  [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)] ?? Number.NaN;

const timed = (times: number, work: () => void): number =>
  median(
    Array.from({ length: times }, () => {
      const began = performance.now();
      work();
      return performance.now() - began;
    }),
  );

const verdict = (met: boolean): string => (met ? 'met' : 'MISSED');

const HOSTS = 10_000;
const NODES = 500;

function placementBench(): void {
  const node: Node = { id: '', zone: 'a', vcpu: 128, memoryGiB: 384, diskGiB: 12_000 };
  const nodes = Array.from({ length: NODES }, (_, n) => ({
    ...node,
    id: `n${n}`,
    zone: n % 2 === 0 ? 'a' : 'b',
  }));
  const sizes = [
    [2, 8, 128],
    [4, 16, 128],
    [8, 32, 256],
    [4, 8, 256],
  ] as const;
  const hosts = Array.from({ length: HOSTS }, (_, n): HostNeed => {
    const [vcpu, memoryGiB, diskGiB] = sizes[(n * 7 + Math.floor(n / 13)) % sizes.length] ?? sizes[0];
    return { id: `h${n}`, customer: `c${n % 200}`, pool: `p${n % 400}`, vcpu, memoryGiB, diskGiB };
  });
  let used = 0;
  const ms = timed(3, () => {
    const { placed, left } = place(hosts, nodes, [], 'pack');
    if (left.length > 0) throw new Error(`${left.length} hosts fit nowhere`);
    used = new Set(placed.map((one) => one.node)).size;
  });
  const bound = volumeBound(hosts, node);
  const over = (used / bound - 1) * 100;
  console.log(
    `placing ${HOSTS} hosts on ${NODES} nodes: ${Math.round(ms)} ms (target under 2000) ${verdict(ms < 2_000)}; ${used} nodes used, ${over.toFixed(1)} % above the bound of ${bound} (target 3 %) ${verdict(over <= 3)}`,
  );
}

const POOLS = 10;
const EACH = 200;

/** An environment of ten pools with two hundred hosts each. */
function poolsBench(): void {
  const from = facts();
  const document: TemplateDocument = {
    name: 'Large',
    says: '',
    called: 'large',
    naming: '{customer}-{role}{counter:4}',
    tags: {},
    features: [],
    inputs: [],
    atATime: 5,
    failureLimit: 2,
    pools: Array.from({ length: POOLS }, (_, n) =>
      usualPool(`p${n}`, 'Ostrel 12 multi-user', {
        concurrency: 1,
        people: (EACH - 1) * 3,
        ceilingFactor: 1,
      }),
    ),
  };
  const site = {
    ...from.site,
    nodes: Array.from({ length: 240 }, (_, n) => ({
      id: `n${n}`,
      zone: n % 2 === 0 ? 'a' : 'b',
      vcpu: 128,
      memoryGiB: 384,
      diskGiB: 7_680,
    })),
  };
  const asked = { environment: 'large', template: 'large', site: 'KQ', people: 5_000 };
  const all = { ...from, site, template: { code: 'large', revision: 1, document } };
  const ms = timed(9, () => {
    const { wanted } = propose(RESOURCE_KINDS, provision, asked, all);
    const hosts = wanted.filter((one) => one.kind === 'host').length;
    if (hosts !== POOLS * EACH) throw new Error(`${hosts} hosts were proposed`);
  });
  console.log(
    `proposal for ${POOLS} pools with ${POOLS * EACH} hosts: ${Math.round(ms)} ms (target under 300) ${verdict(ms < 300)}`,
  );
}

const LINES = 1_000;

/** From a key that is pressed until the template's messages stand: the text read and checked whole. */
function templateBench(): void {
  const pool = usualPool('p', 'Ostrel 12 multi-user', {
    profile: 'heavy',
    spare: 0,
    arrival: 'fill',
    concurrency: 0.5,
    mostSeats: 12,
    diskGiB: 300,
    shareGiBPerPerson: 5,
    ceilingFactor: 3,
    items: Array.from({ length: 8 }, (_, n) => ({ name: `App ${n}`, kind: 'app' as const })),
    crosses: ['clipboard'],
  });
  let text = writeTemplate({
    name: 'Long',
    says: '',
    called: 'long',
    naming: '{customer}-{role}{counter:4}',
    tags: {},
    features: [],
    inputs: [],
    atATime: 5,
    failureLimit: 2,
    pools: Array.from({ length: 35 }, (_, n) => ({ ...pool, role: `p${n}` })),
  });
  const lines = text.split('\n').length;
  if (lines < LINES) throw new Error(`the template has ${lines} lines`);
  let n = 0;
  const typed = timed(15, () => {
    text = `${text.trimEnd()}\n# ${n++}\n`;
    if (!readTemplate(text).ok) throw new Error('the template cannot be read');
  });
  const filled = timed(9, () => {
    text = editedText(text, ['pools', 3, 'diskGiB'], 100 + n++);
    if (!readTemplate(text).ok) throw new Error('the template cannot be read');
  });
  console.log(
    `a key in a template of ${lines} lines until its messages stand: ${typed.toFixed(1)} ms as text (target under 50) ${verdict(typed < 50)}, ${filled.toFixed(1)} ms in its form`,
  );
}
