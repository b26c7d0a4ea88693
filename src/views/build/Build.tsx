import type { Page, Template as TemplateRow, TemplateUse } from '../../contract';
import type { PoolSpec } from '../../core/templates';
import { nameAt, parseRule } from '../../core/naming';
import { count } from '../../client/format';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import styles from './Build.module.css';

/** A template with the environments that came from it, the newest first. */
export interface UsedTemplate extends TemplateRow {
  readonly uses: Page<TemplateUse>;
}

type Marks = Readonly<Record<string, MarkLook>>;

/** What can environments be made from? */
export function Build({
  templates,
  marks,
}: {
  readonly templates: readonly UsedTemplate[];
  readonly marks: Marks;
}) {
  if (templates.length === 0) return <Empty says="There is no template yet." />;
  return (
    <div className={styles.templates}>
      <h1 className="sr">Build</h1>
      {templates.map((template) => (
        <div key={template.code} className={styles.template}>
          <Template template={template} />
          <Uses uses={template.uses} marks={marks} newest={template.revision} />
        </div>
      ))}
    </div>
  );
}

function Template({ template }: { readonly template: UsedTemplate }) {
  const { spec } = template;
  return (
    <Panel title={template.name} side={<span>revision {template.revision}</span>}>
      <p className={styles.says}>{template.says}.</p>
      {spec.pools.map((pool) => (
        <div key={pool.role} className={styles.pool}>
          <Plan pool={pool} />
          <dl className={styles.spec}>
            <Fact name="Names">
              <code>{spec.naming}</code>, like <code>{example(spec.naming, pool.role)}</code>
            </Fact>
            <Fact name="Image">{pool.image}</Fact>
            <Fact name="Work">
              {pool.profile}, for {Math.round(pool.partOfPeople * 100)} % of the people
            </Fact>
            <Fact name="Arrivals">
              {pool.arrival === 'spread' ? 'spread: fewest sessions first' : 'fill: fullest first'}
            </Fact>
            <Fact name="Busiest moment">{Math.round(pool.concurrency * 100)} % of them</Fact>
            <Fact name="Seats on a host">at most {pool.mostSeats}</Fact>
            <Fact name="Disk">{pool.diskGiB} GiB a host</Fact>
            <Fact name="Profiles">{pool.shareGiBPerPerson} GiB a person</Fact>
            <Fact name="Subnet">room for {pool.ceilingFactor} times its first hosts</Fact>
          </dl>
        </div>
      ))}
      <dl className={styles.spec}>
        <Fact name="Runs">
          {spec.atATime} steps at a time, stop after {spec.failureLimit} failures
        </Fact>
      </dl>
    </Panel>
  );
}

/** What came from the template, whose it is, and from which revision. */
function Uses({
  uses,
  marks,
  newest,
}: {
  readonly uses: Page<TemplateUse>;
  readonly marks: Marks;
  readonly newest: number;
}) {
  const { entries } = uses;
  const title = `${count(entries.length, 'environment', 'environments')}${uses.next === null ? '' : ' and more'} from it`;
  if (entries.length === 0)
    return (
      <Panel title="Nothing came from it yet">
        <Empty says="Choose a customer, then Provision.">
          <ButtonLink href="/customers">Customers</ButtonLink>
        </Empty>
      </Panel>
    );
  return (
    <Panel title={title}>
      <ul className={styles.uses}>
        {entries.map((one) => {
          const mark = marks[one.customer];
          return (
            <li key={one.id}>
              <a href={`/customers/${one.customer}/environments/${one.id}`}>
                {mark && <Mark mark={mark} size={26} />}
                <span>{one.name}</span>
              </a>
              <Chip tone={one.revision === newest ? 'good' : 'care'}>revision {one.revision}</Chip>
            </li>
          );
        })}
      </ul>
    </Panel>
  );
}

/** The parts of a pool and how they hang together. */
function Plan({ pool }: { readonly pool: PoolSpec }) {
  const items = pool.items.map((item) => item.name);
  return (
    <svg
      className={styles.plan}
      viewBox="0 0 640 170"
      role="img"
      aria-label={`A network with a subnet and hosts, a share for profiles, and the items ${items.join(', ')}`}
    >
      <rect x="8" y="8" width="330" height="154" rx="12" className={styles.network} />
      <text x="22" y="30">
        network
      </text>
      <rect x="24" y="42" width="190" height="106" rx="9" className={styles.subnet} />
      <text x="36" y="62">
        subnet · pool {pool.role}
      </text>
      {[0, 1, 2, 3, 4].map((n) => (
        <rect
          key={n}
          x={38 + n * 34}
          y="78"
          width="26"
          height="52"
          rx="4"
          className={n < 4 ? styles.host : styles.ceiling}
        />
      ))}
      <rect x="234" y="72" width="86" height="60" rx="9" className={styles.share} />
      <text x="250" y="106">
        profiles
      </text>
      <path d="M214 102H234" className={styles.tie} />
      {items.map((item, index) => (
        <g key={item}>
          <path d={`M338 85C380 85 380 ${34 + index * 44} 420 ${34 + index * 44}`} className={styles.tie} />
          <rect x="420" y={16 + index * 44} width="200" height="36" rx="18" className={styles.item} />
          <text x="440" y={39 + index * 44}>
            {item}
          </text>
        </g>
      ))}
    </svg>
  );
}

const Fact = ({ name, children }: { readonly name: string; readonly children: React.ReactNode }) => (
  <div>
    <dt>{name}</dt>
    <dd>{children}</dd>
  </div>
);

function example(naming: string, role: string): string {
  const rule = parseRule(naming);
  if (!rule.ok) return rule.problem;
  return nameAt(rule.value, { customer: 'SVG', environment: 'clinic', site: 'KQ', role }, 1);
}
