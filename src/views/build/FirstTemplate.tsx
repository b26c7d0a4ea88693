import { useState } from 'react';
import { STARTERS, starterOn, writeTemplate, type Starter } from '../../core/templates';
import { TERMS } from '../../core/terms';
import { newKey, send, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { Button, ButtonLink } from '../../ui/Button';
import { SelectField } from '../../ui/Field';
import { Empty, Panel } from '../../ui/Panel';
import { Hosts } from './Picture';
import styles from './Build.module.css';

/** With what may one begin, where there is no template? */
export function FirstTemplate({ images }: { readonly images: readonly string[] }) {
  const [image, setImage] = useState('');
  const [taking, setTaking] = useState<string>();
  const [problem, setProblem] = useState<string>();
  if (images.length === 0)
    return (
      <Empty says="There is no template yet, and no image that one could be for.">
        <ButtonLink kind="main" href="/ground">
          Connect a provider
        </ButtonLink>
      </Empty>
    );
  const take = async (starter: Starter): Promise<void> => {
    setProblem(undefined);
    setTaking(starter.code);
    const { code } = starter;
    const body = { text: writeTemplate(starterOn(starter, image)), owner: '', note: 'to begin with' };
    try {
      await send('POST', '/templates/{template}/revisions', { template: code }, { body, key: newKey() });
      location.reload();
    } catch (error) {
      setTaking(undefined);
      setProblem(whyOf(error));
    }
  };
  return (
    <section className={styles.first} aria-label="Begin with a template">
      <h2>No template yet: begin with one of these</h2>
      <SelectField
        label="Image of its hosts"
        value={image}
        onChange={(event) => setImage(event.target.value)}
      >
        <option value="">choose one</option>
        {images.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </SelectField>
      {problem !== undefined && <p role="alert">{problem}</p>}
      <div className={styles.starters}>
        {STARTERS.map((starter) => (
          <Panel key={starter.code} title={starter.name}>
            <Hosts seats={poolOf(starter).mostSeats} isPersonal={starter.pool.kind === 'personal'} />
            <p>{starter.says}.</p>
            <p className={styles.says}>
              {poolOf(starter).profile} work, {count(poolOf(starter).mostSeats, 'person', 'people')} on a host
              at most, {poolOf(starter).diskGiB} GiB of disk
            </p>
            <Button
              kind="main"
              aria-label={`Take ${starter.name}`}
              isDisabled={taking !== undefined || image === ''}
              onPress={() => void take(starter)}
            >
              {taking === starter.code ? 'Taking it …' : 'Take it'}
            </Button>
          </Panel>
        ))}
      </div>
    </section>
  );
}

/** What is said of a starter's pool, with what is usual. */
const poolOf = ({ pool }: Starter): { mostSeats: number; diskGiB: number; profile: string } => ({
  mostSeats: pool.mostSeats ?? TERMS.mostSeats.usual ?? 1,
  diskGiB: pool.diskGiB ?? TERMS.diskGiB.usual ?? 1,
  profile: pool.profile ?? TERMS.profile.usual ?? '',
});
