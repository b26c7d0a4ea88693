import type { Resource } from './resource';

export interface Program {
  readonly id: string;
  readonly name: string;
  /** Of one vCPU, in hundredths. */
  readonly load: number;
  readonly memory_mib: number;
  readonly responds: boolean;
}

interface Shown {
  readonly session: {
    readonly id: string;
    readonly account: string;
    /** What was started; empty: nobody started it from a desk. */
    readonly item: string;
    readonly since: number;
    readonly crosses: string;
    readonly screen: string;
  };
  readonly host: Resource;
  readonly programs: readonly Program[];
  readonly messages: readonly { readonly text: string; readonly at: number }[];
  readonly ticket: string;
  /** What stands above it all: that somebody asks to look along, or does. */
  readonly above: string;
}

export const escaped = (text: string): string =>
  text.replaceAll(/[&<>"']/g, (letter) => `&#${letter.codePointAt(0) ?? 0};`);

/** What may cross here, and how large it is shown. */
function manner({ crosses, screen }: Shown['session']): string {
  if (screen === '') return '';
  const all = JSON.parse(crosses) as string[];
  return `${all.length === 0 ? 'Nothing crosses' : `${all.join(', ')} cross`} · shown ${screen}`;
}

/** What somebody sees who is in: a small page in place of the desktop itself. */
export function sessionPage({ session, host, programs, messages, ticket, above }: Shown): string {
  const since = new Date(session.since).toISOString().slice(11, 16);
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta http-equiv="refresh" content="4">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(host.name)} · ${escaped(session.account)}</title>
<style>
  body { margin: 0; min-height: 100vh; font: 16px/1.5 system-ui, sans-serif; color: #f3efe6; background: linear-gradient(160deg, #1f3f3a, #27304a); }
  header, main { padding: 20px 28px; }
  header { display: flex; gap: 20px; align-items: baseline; background: rgb(0 0 0 / 25%); flex-wrap: wrap; }
  h1 { margin: 0; font-size: 22px; }
  ul { list-style: none; padding: 0; display: flex; flex-wrap: wrap; gap: 14px; }
  li { padding: 16px 20px; border-radius: 10px; background: rgb(255 255 255 / 12%); min-width: 150px; }
  small { display: block; opacity: .8; }
  .message { padding: 10px 16px; border-radius: 8px; background: #f6d98a; color: #2a2312; }
  .look { display: flex; flex-wrap: wrap; gap: 12px; align-items: center; padding: 12px 16px; border-radius: 8px; background: #b7e4d4; color: #12312a; }
  .look form { margin: 0; }
  .look button { border-color: #12312a; }
  button { font: inherit; padding: 8px 16px; border-radius: 8px; border: 1px solid #f3efe6; background: none; color: inherit; }
</style>
<header><h1>${escaped(host.name)}</h1>${session.item === '' ? '' : `<b>${escaped(session.item)}</b>`}<span>${escaped(session.account)}</span><span>in since ${since} UTC</span></header>
<main>
${above}
${messages.map(({ text }) => `<p class="message" role="status">${escaped(text)}</p>`).join('\n')}
<p>${escaped(manner(session))}</p>
<h2>Running</h2>
<ul>${programs
    .map(
      ({ name, load, memory_mib, responds }) =>
        `<li>${escaped(name)}<small>${load} % · ${memory_mib} MiB${responds ? '' : ' · does not respond'}</small></li>`,
    )
    .join('')}</ul>
<form method="post" action="/sessions/${session.id}/sign-out?ticket=${ticket}"><button>Sign out</button></form>
</main>
</html>`;
}
