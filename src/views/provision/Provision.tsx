import { useEffect, useState } from 'react';
import { useWatch } from 'react-hook-form';
import type { PoolChoice } from '../../core/changes';
import type { FilledInput } from '../../core/intent';
import type { Facts } from '../../core/facts';
import { impactLine, mayBegin } from '../../core/planning';
import { get, whyOf } from '../../client/api';
import { usePageForm } from '../../client/form';
import { writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark } from '../../ui/Mark';
import { Choices } from './Choices';
import { firstChoice, freeName, inputOf, type Choice, type ProvisionProps } from './facts';
import { Outcome } from './Outcome';
import type { Outlook } from './facts';
import { Confirm } from '../shared/Confirm';
import styles from './Provision.module.css';
import { usePlan } from './use-plan';

/** Choices on the left; on the right what will come of them, computed beside the page as one types. */
export function Provision({
  customer,
  sites,
  templates,
  views,
  facts: first,
  plan: firstPlan,
}: ProvisionProps) {
  const form = usePageForm<Choice>({ defaultValues: { pools: [], inputs: [] } });
  const chosen = useWatch({ control: form.control });
  const before = firstChoice(customer, first);
  const choice: Choice = {
    template: chosen.template ?? before.template,
    site: chosen.site ?? before.site,
    // Shown in small letters too, by its stylesheet.
    environment: (chosen.environment ?? '').toLowerCase(),
    people: chosen.people ?? before.people,
    ready: chosen.ready ?? before.ready,
    inputs: (chosen.inputs ?? []) as FilledInput[],
    pools: (chosen.pools ?? []) as PoolChoice[],
  };
  const { facts, problem } = useFacts(customer.code, choice, first);
  const [confirming, setConfirming] = useState(false);
  const [isFull, setFull] = useState(false);
  const input = inputOf(choice, facts);
  const { plan, isNow, failed } = usePlan(JSON.stringify(input), facts, firstPlan);
  const { outlook, pools } = plan;
  if (!facts.template) return <p>There is no template to provision from.</p>;
  const why = problem ?? failed;
  const ready = isNow && mayBegin(outlook.checks) && why === undefined;
  return (
    <div className={styles.page} data-full={isFull || undefined}>
      <Choices
        form={form}
        isFull={isFull}
        onFull={setFull}
        choice={choice}
        sites={sites}
        templates={templates}
        views={views}
        images={imagesAt(facts)}
        groups={(facts.grantees ?? []).filter(({ to, inScope }) => to === 'group' && inScope)}
        usualName={freeName(facts)}
        plan={plan}
        factsProblem={problem}
      />
      <Outcome outlook={outlook} facts={facts} pools={pools} />
      <footer className={styles.foot}>
        <Mark mark={customer.mark} size={32} />
        <div>
          {mayBegin(outlook.checks) && why === undefined ? (
            <ImpactLine line={impactLine(outlook.impact, writeMoney)} />
          ) : (
            <p className={styles.missing}>{why ?? missing(outlook)}</p>
          )}
          <small>for {customer.name}</small>
        </div>
        <Button kind="main" isDisabled={!ready} onPress={() => setConfirming(true)}>
          Provision…
        </Button>
      </footer>
      {confirming && (
        <Confirm
          customer={customer}
          change={{ kind: 'provision', verb: 'Provision', what: input.environment, input: { ...input } }}
          onClose={() => setConfirming(false)}
        />
      )}
    </div>
  );
}

/** What hosts may be made of here: lines of ours once, and what the provider offers. */
const imagesAt = ({ site }: Facts): string[] => [
  ...new Set(site.images.flatMap(({ name, of }) => (of?.state === 'dropped' ? [] : [of?.line ?? name]))),
];

function missing(outlook: Outlook): string {
  const blocking = outlook.checks.filter((check) => check.state === 'blocks');
  const [first] = blocking;
  if (!first) return '';
  return blocking.length === 1
    ? `${first.title}: ${first.says}`
    : `${first.title}: ${first.says}, and ${blocking.length - 1} more`;
}

/** The facts of the chosen site and template; while others are fetched the last ones stay. */
function useFacts(
  code: string,
  { site, template }: Choice,
  first: Facts,
): { facts: Facts; problem: string | undefined } {
  const [facts, setFacts] = useState(first);
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    if (site === facts.site.code && template === facts.template?.code) return;
    let ended = false;
    get('/customers/{customer}/facts', { customer: code }, { site, template }).then(
      (found) => {
        if (ended) return;
        setFacts(found);
        setProblem(undefined);
      },
      (error: unknown) => !ended && setProblem(whyOf(error)),
    );
    return () => {
      ended = true;
    };
  }, [code, site, template, facts.site.code, facts.template?.code]);
  return { facts, problem };
}
