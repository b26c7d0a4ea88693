import { useEffect, useState } from 'react';
import { SIGNED_OUT } from '../../client/api';
import styles from './SignedOut.module.css';

/** The session has ended while the page is open. What was entered stays: one signs in beside it. */
export function SignedOut() {
  const [out, setOut] = useState(false);
  useEffect(() => {
    const told = (): void => setOut(true);
    addEventListener(SIGNED_OUT, told);
    return () => removeEventListener(SIGNED_OUT, told);
  }, []);
  if (!out) return null;
  return (
    <div role="alert" className={styles.out}>
      You are signed out.
      <a href="/sign-in" target="_blank" rel="noreferrer" onClick={() => setOut(false)}>
        Sign in in another tab
      </a>
      What you entered here stays.
    </div>
  );
}
