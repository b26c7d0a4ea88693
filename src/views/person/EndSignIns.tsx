import { LogOut } from 'lucide-react';
import { useState } from 'react';
import { newKey, send, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';

/** Signs a person out of My desk on all their devices. What runs on their desktops goes on. */
export function EndSignIns({ code, person }: { readonly code: string; readonly person: string }) {
  const [says, setSays] = useState<string>();
  const end = async (): Promise<void> => {
    try {
      const { ended } = await send(
        'POST',
        '/customers/{customer}/people/{person}/desk-sessions/ended',
        { customer: code, person },
        { key: newKey() },
      );
      setSays(
        ended === 0
          ? 'They were not signed in to My desk.'
          : `${count(ended, 'sign-in', 'sign-ins')} to My desk ended.`,
      );
    } catch (error) {
      setSays(whyOf(error));
    }
  };
  return (
    <>
      <Button icon={<LogOut size={16} aria-hidden="true" />} onPress={() => void end()}>
        Sign out of My desk
      </Button>
      {says !== undefined && <span role="status">{says}</span>}
    </>
  );
}
