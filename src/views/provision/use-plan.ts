import { useEffect, useRef, useState } from 'react';
import type { ProvisionInput } from '../../core/changes';
import type { Facts } from '../../core/facts';
import type { Plan, Question } from './facts';

/**
 * Plans beside the page, so that typing never waits for it.
 * @param asked the input as JSON: what is the same again is not planned again
 * @param first the plan for what is asked at first
 * @returns the newest plan there is, whether it is the one for what is asked now, and why it cannot be had
 */
export function usePlan(
  asked: string,
  facts: Facts,
  first: Plan,
): { plan: Plan; isNow: boolean; failed: string | undefined } {
  const [answer, setAnswer] = useState({ plan: first, asked, facts });
  const [failed, setFailed] = useState<string>();
  const planner = useRef<Worker>(undefined);
  const turns = useRef(first.turn);
  const isNow = answer.asked === asked && answer.facts === facts;
  useEffect(() => {
    planner.current = new Worker(new URL('./planner.worker.ts', import.meta.url), { type: 'module' });
    return () => planner.current?.terminate();
  }, []);
  useEffect(() => {
    const worker = planner.current;
    if (isNow || !worker) return;
    turns.current += 1;
    const question: Question = { turn: turns.current, input: JSON.parse(asked) as ProvisionInput, facts };
    const take = ({ data }: MessageEvent<Plan>): void => {
      if (data.turn !== question.turn) return;
      setFailed(undefined);
      setAnswer({ plan: data, asked, facts });
    };
    const fail = (): void => setFailed('This could not be planned. Load the page again.');
    worker.addEventListener('message', take);
    worker.addEventListener('error', fail);
    worker.postMessage(question);
    return () => {
      worker.removeEventListener('message', take);
      worker.removeEventListener('error', fail);
    };
  }, [asked, facts, isNow]);
  return { plan: answer.plan, isNow, failed };
}
