import type { Attributes, Operation, Resource } from './resource';

/* How an image comes about: steps on a machine, until it is quiet, knows no more who it was, is off, and is captured. */

/** Programs that the store has, by name, with their versions. */
const STORE: Readonly<Record<string, readonly string[]>> = {
  Tallybrook: ['4.1', '4.2'],
  Contourwick: ['11', '12'],
  Tidewarden: ['2.8', '2.9'],
  Murrelmail: ['7'],
  Paddockbook: ['3.3', '3.4'],
  // One a month, and `newest` for the last of them.
  'Ostrel updates': [],
  'Office letters': ['5'],
};

/** What stands on what a provider offers to begin from. */
const BASE = ['Ostrel 12'];

const APPLYING: Readonly<Record<string, number>> = {
  install: 150,
  copy: 20,
  set: 3,
  run: 40,
  wait: 30,
  check: 5,
};

/** It goes on writing for so long after the last step, in simulated milliseconds. */
const WRITES_MS = 90_000;

const textOf = (value: unknown): string => (typeof value === 'string' ? value : '');
export const listOf = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);

/** Simulated seconds that a step takes; a script that says `sleep 600` takes as long as it says. */
export const applySeconds = (parameters: Attributes): number => {
  const sleeps = /\bsleep (\d{1,6})\b/.exec(textOf(parameters.what));
  return sleeps && parameters.verb === 'run' ? Number(sleeps[1]) : (APPLYING[textOf(parameters.verb)] ?? 20);
};

interface Came {
  readonly failed: string | undefined;
  readonly attrs: Attributes;
}

/** What comes of a step: it works, and is noted on the machine, or it does not. */
export function applied(operation: Operation, machine: Resource): Came {
  const step = JSON.parse(operation.parameters) as Attributes;
  const failed = faultOf(step, listOf(machine.attrs.programs), operation.ready_at);
  if (failed !== undefined) return { failed, attrs: { quietAt: operation.ready_at + WRITES_MS } };
  return {
    failed: undefined,
    attrs: {
      applied: [...listOf(machine.attrs.applied), textOf(step.mark)],
      programs:
        step.verb === 'install'
          ? withProgram(machine, namedAt(textOf(step.what), operation.ready_at))
          : listOf(machine.attrs.programs),
      quietAt: operation.ready_at + WRITES_MS,
      generalised: false,
    },
  };
}

function withProgram({ attrs }: Resource, program: string): string[] {
  const { name } = parted(program);
  return [...listOf(attrs.programs).filter((one) => parted(one).name !== name), program].sort();
}

function parted(program: string): { name: string; version: string } {
  const at = program.lastIndexOf(' ');
  return { name: program.slice(0, at), version: program.slice(at + 1) };
}

/** The month of an instant, as updates are named. */
const monthOf = (at: number): string => new Date(at).toISOString().slice(0, 7);

/** A program as it comes to be there: of what is asked for as the newest, the newest. */
function namedAt(program: string, at: number): string {
  return program === 'Ostrel updates newest' ? `Ostrel updates ${monthOf(at)}` : program;
}

function versionsOf(name: string, at: number): readonly string[] | undefined {
  if (name !== 'Ostrel updates') return STORE[name];
  const { [0]: year, [1]: month } = monthOf(at).split('-').map(Number);
  return Array.from({ length: 12 }, (_, n) => monthOf(Date.UTC(year ?? 0, (month ?? 1) - 12 + n, 1)));
}

function faultOf(step: Attributes, programs: readonly string[], at: number): string | undefined {
  const what = namedAt(textOf(step.what), at);
  if (step.verb === 'install') {
    const { name, version } = parted(what);
    const versions = versionsOf(name, at);
    if (!versions) return `the store has no program called ${what}`;
    if (!versions.includes(version))
      return `the store has ${name} ${versions.slice(-3).join(', ')}, not ${version}`;
  }
  const asked = step.verb === 'check' ? what : textOf(step.holds);
  const program = /^(.*) starts$/.exec(asked)?.[1];
  const has = [...programs, ...(step.verb === 'install' ? [what] : [])].some(
    (one) => one === program || parted(one).name === program,
  );
  if (program !== undefined && !has) return `${program} does not start: it is not on the machine`;
  if (step.verb === 'run' && /\bexit [1-9]/.test(what)) return 'the script ended with an error';
  return undefined;
}

/** What a step has written until an instant: line by line, evenly over its time. */
export function outputOf(
  { action, parameters, begun_at, ready_at, state, says }: Operation,
  now: number,
): string {
  if (action !== 'apply') return '';
  const step = JSON.parse(parameters) as Attributes;
  const lines = linesOf(step);
  const part = ready_at <= begun_at ? 1 : Math.min(1, Math.max(0, (now - begun_at) / (ready_at - begun_at)));
  // What fails, fails at its first line: the store does not have it, or it is not so.
  const most = state === 'working' ? Math.floor(part * lines.length) : state === 'failed' ? 1 : lines.length;
  const shown = lines.slice(0, most);
  return [...shown, ...(state === 'failed' ? [`error: ${says}`] : state === 'done' ? ['done'] : [])].join(
    '\n',
  );
}

function linesOf({ verb, what, to }: Attributes): string[] {
  const said = textOf(what);
  switch (verb) {
    case 'install':
      return [
        `asking the store for ${said}`,
        `fetching ${said}`,
        'fetched, looking at its seal',
        'unpacking',
        'writing files',
        'registering',
      ];
    case 'copy':
      return [`copying ${said}`, `to ${textOf(to)}`];
    case 'set':
      return [`${said} = ${textOf(to)}`];
    case 'run':
      return said.split('\n').map((line) => `> ${line}`);
    default:
      return [`looking whether ${said}`];
  }
}

/** How much a machine writes now. */
export const writesOf = ({ attrs }: Resource, now: number): number =>
  Number(attrs.quietAt ?? 0) > now ? 14 : 0;

/** What a captured image holds. */
export const capturedOf = ({ attrs }: Resource): Attributes => ({
  gib: attrs.diskGiB,
  programs: listOf(attrs.programs),
});

/** What is on a machine at its beginning: what the image holds that it is made of. */
export const programsOn = (image: Resource | undefined): string[] =>
  image ? listOf(image.attrs.programs) : BASE;
