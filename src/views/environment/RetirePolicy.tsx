import { useEffect } from 'react';
import type { ProposalView } from '../../contract';
import type { PolicyWish } from '../../core/planning';
import { useChangeForm } from '../shared/change-form';
import { PolicyFields } from '../shared/PolicyFields';

const NOTHING = {};

/** How retiring goes about it: how long people have, and when it may work. @param onPolicy undefined: what is entered cannot be used */
export default function RetirePolicy({
  proposal,
  onPolicy,
}: {
  readonly proposal: ProposalView;
  readonly onPolicy: (policy: PolicyWish | undefined) => void;
}) {
  const { form, asked } = useChangeForm('retire', NOTHING);
  const { isValid } = form.formState;
  const written = JSON.stringify(asked.policy ?? {});
  useEffect(() => {
    onPolicy(isValid ? (JSON.parse(written) as PolicyWish) : undefined);
  }, [written, isValid, onPolicy]);
  return <PolicyFields form={form} proposal={proposal} />;
}
