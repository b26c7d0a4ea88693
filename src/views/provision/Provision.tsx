import { useDeferredValue, useEffect, useMemo, useState } from 'react';
import type { ProvisionGround, ProvisionWish } from '../../core/ground';
import { mayBegin } from '../../core/preflight';
import { impactLine, proposeProvision, type ProvisionProposal } from '../../core/proposal';
import { get, whyOf } from '../../client/api';
import { writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark } from '../../ui/Mark';
import { Choices } from './Choices';
import { Confirm } from './Confirm';
import type { Choice, ProvisionProps } from './facts';
import { Outcome } from './Outcome';
import styles from './Provision.module.css';

/** Choices on the left; on the right what will come of them, computed here as one types. */
export function Provision({ customer, sites, templates, ground: first }: ProvisionProps) {
  const [firstTemplate] = templates;
  const [choice, setChoice] = useState<Choice>({
    template: firstTemplate?.code ?? '',
    site: first.site.code,
    environment: '',
    people: String(Math.min(customer.people, 20) || 10),
    profile: firstTemplate?.spec.profile ?? 'standard',
    size: undefined,
  });
  const { ground, problem } = useGround(customer.code, choice.site, first);
  const [confirming, setConfirming] = useState(false);
  const template = templates.find((one) => one.code === choice.template) ?? firstTemplate;
  const wish = useDeferredValue(wishOf(choice));
  const proposal = useMemo(
    () => (template ? proposeProvision(wish, template.spec, ground) : undefined),
    [wish, template, ground],
  );
  if (!template || !proposal) return <p>There is no template to provision from.</p>;
  const blocking = proposal.checks.filter((check) => check.state === 'blocks');
  const ready = mayBegin(proposal.checks) && problem === undefined;
  return (
    <div className={styles.page}>
      <Choices
        choice={choice}
        onChange={setChoice}
        sites={sites}
        templates={templates}
        proposal={proposal}
        groundProblem={problem}
      />
      <Outcome proposal={proposal} ground={ground} spec={template.spec} />
      <footer className={styles.foot}>
        <Mark mark={customer.mark} size={32} />
        <div>
          {ready ? (
            <ImpactLine line={impactLine(proposal.impact, writeMoney)} />
          ) : (
            <p className={styles.missing}>{problem ?? missing(proposal, blocking.length)}</p>
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
          request={{ ...wish, template: template.code, site: choice.site }}
          shown={proposal}
          onClose={() => setConfirming(false)}
        />
      )}
    </div>
  );
}

const wishOf = (choice: Choice): ProvisionWish => ({
  environment: choice.environment.trim(),
  people: Number(choice.people) || 0,
  profile: choice.profile,
  size: choice.size,
});

function missing(proposal: ProvisionProposal, blocking: number): string {
  const [first] = proposal.checks.filter((check) => check.state === 'blocks');
  if (!first) return '';
  return blocking === 1
    ? `${first.title}: ${first.says}`
    : `${first.title}: ${first.says}, and ${blocking - 1} more`;
}

/** The facts of the chosen site; while others are fetched the last ones stay. */
function useGround(
  code: string,
  site: string,
  first: ProvisionGround,
): { ground: ProvisionGround; problem: string | undefined } {
  const [ground, setGround] = useState(first);
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    if (site === ground.site.code) return;
    let ended = false;
    get<ProvisionGround>(`/customers/${code}/ground?site=${site}`).then(
      (found) => {
        if (ended) return;
        setGround(found);
        setProblem(undefined);
      },
      (error: unknown) => !ended && setProblem(whyOf(error)),
    );
    return () => {
      ended = true;
    };
  }, [code, site, ground.site.code]);
  return { ground, problem };
}
