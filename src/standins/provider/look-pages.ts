import { escaped } from './session-page';

/** The question in somebody's session, or that another looks along: theirs to end at any time. */
export function askingPage(
  {
    id,
    session,
    by_name,
    answer,
  }: { readonly id: string; readonly session: string; readonly by_name: string; readonly answer: string },
  ticket: string,
): string {
  const form = (what: string, says: string): string =>
    `<form method="post" action="/sessions/${session}/looks/${id}/${what}?ticket=${ticket}"><button>${says}</button></form>`;
  const name = escaped(by_name);
  return answer === 'yes'
    ? `<div class="look" role="status"><b>${name} is looking along.</b> They see this screen. ${form('stop', 'Stop it')}</div>`
    : `<div class="look" role="alert"><b>${name} would like to look along.</b> They would see this screen, and change nothing. ${form('yes', 'Let them look')} ${form('no', 'No')}</div>`;
}

/** What whoever looks along sees: the same screen, with nothing to press. */
export const lookingPage = (screen: string, account: string): string =>
  screen
    .replaceAll(/<form[\s\S]*?<\/form>/g, '')
    .replace(
      '<main>',
      `<main><div class="look" role="status"><b>You look along with ${escaped(account)}.</b> They see that you do.</div>`,
    );
