import type { Desk, DeskItem, DeskPlace, Started } from '../../contract';

/** The life of the desk's page: small, so that it is there at once on a slow line. */

const POLL_MS = 8_000;
const WAITING_MS = 3_000;

const problem = document.querySelector<HTMLElement>('.problem');

function say(what: string): void {
  if (!problem) return;
  problem.textContent = what;
  problem.hidden = what === '';
}

async function ask<Answer>(method: string, path: string, body?: object): Promise<Answer | undefined> {
  const response = await fetch(`/api/v1/desk${path}`, {
    method,
    headers: { 'content-type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  }).catch(() => undefined);
  if (response?.status === 401) location.assign('/desk');
  if (response?.ok) return response.status === 204 ? undefined : ((await response.json()) as Answer);
  const told = (await response?.json().catch(() => undefined)) as { readonly detail?: string } | undefined;
  say(told?.detail ?? 'That did not work. Try again in a moment.');
  return undefined;
}

const cards = (): HTMLElement[] => [...document.querySelectorAll<HTMLElement>('.item')];
const placeOf = (card: HTMLElement): DeskPlace => JSON.parse(card.dataset.place ?? '{}') as DeskPlace;
const isAt = (place: DeskPlace, item: DeskItem): boolean =>
  place.environmentId === item.environmentId && place.pool === item.pool && place.item === item.name;

/** Cards that wait for their desktop to start, each with the tab that will show it. */
const waiting = new Set<HTMLElement>();

function show(desk: Desk): void {
  for (const card of cards()) {
    const item = desk.items.find((one) => isAt(placeOf(card), one));
    // What is granted no more, or anew, is another page.
    if (!item) return location.reload();
    card.dataset.state = item.state;
    const says = card.querySelector('.says');
    if (says && !waiting.has(card)) says.textContent = item.says;
    card.querySelector('.star')?.setAttribute('aria-pressed', String(item.favourite));
    const start = card.querySelector<HTMLButtonElement>('.start');
    if (start) start.disabled = item.state === 'closed' || item.state === 'full';
    if (waiting.has(card) && (item.state === 'ready' || item.state === 'in')) {
      waiting.delete(card);
      if (says) says.textContent = 'Ready: press again';
    }
  }
  if (desk.items.length !== cards().length) location.reload();
}

async function start(card: HTMLElement): Promise<void> {
  say('');
  const says = card.querySelector('.says');
  if (says) says.textContent = 'Opening …';
  // Opened by the press itself: later it would be taken for a nuisance.
  const tab = window.open('', '_blank');
  const started = await ask<Started>('POST', '/starts', placeOf(card));
  if (started?.connection) {
    if (tab) tab.location.href = started.connection.address;
    else location.assign(started.connection.address);
    if (says) says.textContent = started.says;
  } else {
    tab?.close();
    if (started) {
      waiting.add(card);
      card.dataset.state = 'starting';
      if (says) says.textContent = `Starting, about ${Math.max(1, Math.round(started.seconds / 60))} min`;
    }
  }
  await refresh();
}

/** The way in as a file, for a program that shows desktops: docs/api.md tells its format. */
async function save(card: HTMLElement): Promise<void> {
  say('');
  const started = await ask<Started>('POST', '/starts', placeOf(card));
  if (!started?.connection) {
    if (started)
      say(`${started.says}: try again in about ${Math.max(1, Math.round(started.seconds / 60))} min.`);
    return;
  }
  const file = new Blob([JSON.stringify(started.connection, null, 2)], { type: 'application/json' });
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = `${started.connection.name.replaceAll(/[^\w-]+/g, '-')}.laager.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}

async function refresh(): Promise<void> {
  const desk = await ask<Desk>('GET', '');
  if (desk) show(desk);
}

document.addEventListener('click', (event) => {
  const pressed = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-do]') : null;
  const card = pressed?.closest<HTMLElement>('.item');
  switch (pressed?.dataset.do) {
    case 'start':
      if (card) void start(card);
      return;
    case 'save':
      if (card) void save(card);
      return;
    case 'favourite': {
      if (!card) return;
      const isFirst = pressed.getAttribute('aria-pressed') === 'true';
      void ask<Desk>('PUT', '/favourite', { favourite: isFirst ? null : placeOf(card) }).then(
        (desk) => desk && location.reload(),
      );
      return;
    }
    case 'own': {
      const hostId = pressed.closest<HTMLElement>('[data-host]')?.dataset.host;
      void ask<Desk>('POST', '/own', { hostId, act: pressed.dataset.act }).then(
        (desk) => desk && location.reload(),
      );
      return;
    }
    case 'sign-out':
      void ask('DELETE', '/session').then(() => location.assign('/desk'));
  }
});

function again(): void {
  setTimeout(
    () => {
      if (document.hidden) return again();
      void refresh().finally(again);
    },
    waiting.size > 0 ? WAITING_MS : POLL_MS,
  );
}
if (document.querySelector('.desk')) again();
