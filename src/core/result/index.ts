/** An outcome that is data: the core returns its errors, it does not throw them. */
export type Result<Value, Problem = string> =
  { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly problem: Problem };

export const ok = <Value>(value: Value): { readonly ok: true; readonly value: Value } => ({
  ok: true,
  value,
});

export const refuse = <Problem>(problem: Problem): { readonly ok: false; readonly problem: Problem } => ({
  ok: false,
  problem,
});
