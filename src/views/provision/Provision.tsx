import { useDeferredValue, useEffect, useMemo, useState } from 'react';
import { useWatch } from 'react-hook-form';
import { provision, sizePools, type PoolChoice, type ProvisionInput } from '../../core/changes';
import type { Facts } from '../../core/facts';
import { impactLine, mayBegin, propose, type Proposal } from '../../core/planning';
import { RESOURCE_KINDS } from '../../core/resources';
import { get, whyOf } from '../../client/api';
import { usePageForm } from '../../client/form';
import { writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark } from '../../ui/Mark';
import ChangeDialog from '../shared/ChangeDialog';
import { Choices } from './Choices';
import type { Choice, ProvisionProps } from './facts';
import { Outcome } from './Outcome';
import styles from './Provision.module.css';

/** Choices on the left; on the right what will come of them, computed here as one types. */
export function Provision({ customer, sites, templates, facts: first }: ProvisionProps) {
  const [firstTemplate] = templates;
  const people = String(Math.min(customer.people, 20) || 10);
  const form = usePageForm<Choice>({ defaultValues: { pools: [] } });
  const chosen = useWatch({ control: form.control });
  const choice: Choice = {
    template: chosen.template ?? first.template?.code ?? firstTemplate?.code ?? '',
    site: chosen.site ?? first.site.code,
    // Shown in small letters too, by its stylesheet.
    environment: (chosen.environment ?? '').toLowerCase(),
    people: chosen.people ?? people,
    pools: (chosen.pools ?? []) as PoolChoice[],
  };
  const { facts, problem } = useFacts(customer.code, choice, first);
  const [confirming, setConfirming] = useState(false);
  // As text, so that what is the same again is not proposed again.
  const key = JSON.stringify(inputOf(choice));
  const deferred = useDeferredValue(key);
  const input = useMemo(() => JSON.parse(deferred) as ProvisionInput, [deferred]);
  const { proposal, pools } = useMemo(
    () => ({
      proposal: propose(RESOURCE_KINDS, provision, input, facts),
      pools: sizePools(input, facts),
    }),
    [input, facts],
  );
  if (!facts.template) return <p>There is no template to provision from.</p>;
  const ready = mayBegin(proposal.checks) && problem === undefined;
  return (
    <div className={styles.page}>
      <Choices
        form={form}
        choice={choice}
        sites={sites}
        templates={templates}
        checks={proposal.checks}
        pools={pools}
        factsProblem={problem}
      />
      <Outcome proposal={proposal} facts={facts} pools={pools} />
      <footer className={styles.foot}>
        <Mark mark={customer.mark} size={32} />
        <div>
          {ready ? (
            <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          ) : (
            <p className={styles.missing}>{problem ?? missing(proposal)}</p>
          )}
          <small>for {customer.name}</small>
        </div>
        <Button kind="main" isDisabled={!ready} onPress={() => setConfirming(true)}>
          Provision…
        </Button>
      </footer>
      {confirming && (
        <ChangeDialog
          customer={customer}
          change={{ kind: 'provision', verb: 'Provision', what: input.environment, input: { ...input } }}
          onClose={() => setConfirming(false)}
        />
      )}
    </div>
  );
}

const inputOf = (choice: Choice): ProvisionInput => ({
  environment: choice.environment.trim(),
  template: choice.template,
  site: choice.site,
  people: Number(choice.people) || 0,
  ...(choice.pools.length > 0 ? { pools: choice.pools } : {}),
});

function missing(proposal: Proposal): string {
  const blocking = proposal.checks.filter((check) => check.state === 'blocks');
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
