/**
 * Where a sign-in leads: the page that was asked for, as a browser would read it (WHATWG URL), when it is one of ours;
 * else the first page. Tabs, line breaks and backslashes are read as browsers do.
 */
export function ownPath(asked: string, here: URL): string {
  if (!asked.startsWith('/') || !URL.canParse(asked, here)) return '/';
  const { origin, pathname, search, hash } = new URL(asked, here);
  // Written anew, so that nothing of it is left to be read otherwise.
  return origin === here.origin && !pathname.startsWith('//') ? `${pathname}${search}${hash}` : '/';
}
