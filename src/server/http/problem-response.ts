import type { Problem } from '../problem';

const TITLES: Readonly<Record<number, string>> = {
  400: 'Cannot be read',
  401: 'Not signed in',
  403: 'Not allowed',
  404: 'Not found',
  405: 'Not possible here',
  409: 'In the way of something else',
  412: 'Changed meanwhile',
  413: 'Too large',
  415: 'Other media type wanted',
  422: 'Cannot be used',
  429: 'Too many',
  500: 'Broken',
  503: 'Out of reach',
};

/** Problem details as RFC 9457 writes them. */
export function problemResponse(problem: Problem): Response {
  const { fields, extra, headers } = problem.more;
  return new Response(
    JSON.stringify({
      type: `urn:laager:problem:${problem.code}`,
      title: TITLES[problem.status] ?? 'Problem',
      status: problem.status,
      detail: problem.detail,
      ...(fields ? { fields } : {}),
      ...extra,
    }),
    {
      status: problem.status,
      headers: { 'content-type': 'application/problem+json', 'cache-control': 'no-store', ...headers },
    },
  );
}
