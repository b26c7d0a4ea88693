import { useState } from 'react';
import { FileUp, Plus } from 'lucide-react';
import type { Template } from '../../contract';
import { writeTerm } from '../../core/terms';
import { count } from '../../client/format';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { TextField } from '../../ui/Field';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { FromFile } from './FromFile';
import { NewTemplate } from './NewTemplate';
import { Hosts } from './Picture';
import styles from './Template.module.css';

/** A template with how many environments came from it, as far as they are in reach. */
export interface UsedTemplate extends Template {
  readonly uses: number;
  readonly behind: number;
  /** Codes of some of their customers. */
  readonly customers: readonly string[];
}

interface Props {
  readonly templates: readonly UsedTemplate[];
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly images: readonly string[];
  readonly sites: readonly { readonly code: string; readonly name: string }[];
  readonly mayChange: boolean;
}

/** So many are looked through without being looked for. */
const FEW = 8;

/** What can environments be made from? */
export function Build({ templates, marks, images, sites, mayChange }: Props) {
  const [open, setOpen] = useState<'new' | 'file'>();
  const [find, setFind] = useState('');
  const wanted = find.trim().toLowerCase();
  const shown = templates.filter(({ code, name, says, owner }) =>
    `${code} ${name} ${says} ${owner}`.toLowerCase().includes(wanted),
  );
  return (
    <div className={styles.page}>
      <h1 className="sr">Templates</h1>
      <div className={styles.top}>
        {templates.length > FEW && (
          <TextField label="Find" value={find} onChange={(event) => setFind(event.target.value)} />
        )}
        {mayChange && (
          <>
            <Button
              kind="main"
              icon={<Plus size={16} aria-hidden="true" />}
              aria-expanded={open === 'new'}
              onPress={() => setOpen(open === 'new' ? undefined : 'new')}
            >
              New template
            </Button>
            <Button
              icon={<FileUp size={16} aria-hidden="true" />}
              aria-expanded={open === 'file'}
              onPress={() => setOpen(open === 'file' ? undefined : 'file')}
            >
              From a file
            </Button>
          </>
        )}
      </div>
      {open === 'new' && <NewTemplate templates={templates} marks={marks} images={images} />}
      {open === 'file' && <FromFile sites={sites} />}
      {templates.length === 0 && <Empty says="There is no template yet." />}
      {templates.length > 0 && shown.length === 0 && <p>No template is called that.</p>}
      <div className={styles.cards}>
        {shown.map((template) => (
          <Card key={template.code} template={template} marks={marks} />
        ))}
      </div>
    </div>
  );
}

function Card({ template, marks }: { readonly template: UsedTemplate; readonly marks: Props['marks'] }) {
  const { code, name, says, owner, revision, document, hasDraft, uses, behind, customers } = template;
  const mark = marks[owner];
  return (
    <Panel
      title={name}
      side={
        <span>
          {hasDraft && <Chip tone="busy">draft</Chip>}{' '}
          {revision > 0 && <Chip tone="quiet">revision {revision}</Chip>}
        </span>
      }
    >
      <div className={styles.card}>
        <p className={styles.quiet}>{says}</p>
        <div className={styles.pools}>
          {document?.pools.map((pool) => (
            <div key={pool.role}>
              <b>{pool.role}</b> <small>{pool.track === 'trial' && 'pilot'}</small>
              <Hosts seats={Number(pool.mostSeats)} isPersonal={pool.kind === 'personal'} />
              <small className={styles.quiet}>
                {pool.kind === 'personal'
                  ? 'a host each'
                  : `up to ${writeTerm('mostSeats', pool.mostSeats)} a host`}
                , {writeTerm('image', pool.image)}
              </small>
            </div>
          ))}
        </div>
        <footer>
          {mark && (
            <span>
              <Mark mark={mark} size={24} /> {owner} alone
            </span>
          )}
          {customers.map((one) => {
            const user = marks[one];
            return user && <Mark key={one} mark={user} size={22} />;
          })}
          <span className={styles.quiet}>
            {uses === 0 ? 'nothing came from it yet' : count(uses, 'environment', 'environments')}
          </span>
          {behind > 0 && <Chip tone="care">{behind} on an older revision</Chip>}
          <ButtonLink href={`/build/templates/${code}`}>Open</ButtonLink>
        </footer>
      </div>
    </Panel>
  );
}
