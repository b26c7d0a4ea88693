import type { TemplateSpec } from '../../core/ground';
import { nameAt, parseRule } from '../../core/naming';
import { count } from '../../client/format';
import { Empty, Panel } from '../../ui/Panel';
import styles from './Build.module.css';

export interface TemplateFacts {
  readonly code: string;
  readonly name: string;
  readonly says: string;
  readonly revision: number;
  readonly note: string;
  readonly environments: number;
  readonly spec: TemplateSpec;
}

/** What can environments be made from? */
export function Build({ templates }: { readonly templates: readonly TemplateFacts[] }) {
  if (templates.length === 0) return <Empty says="There is no template yet." />;
  return (
    <div className={styles.templates}>
      <h1 className="sr">Build</h1>
      {templates.map((template) => (
        <Template key={template.code} template={template} />
      ))}
    </div>
  );
}

function Template({ template }: { readonly template: TemplateFacts }) {
  const { spec } = template;
  return (
    <Panel title={template.name} side={<span>revision {template.revision}</span>}>
      <p className={styles.says}>
        {template.says}. {count(template.environments, 'environment stands', 'environments stand')} on it.
      </p>
      <Plan spec={spec} />
      <dl className={styles.spec}>
        <Fact name="Names">
          <code>{spec.naming}</code>, like <code>{example(spec.naming, spec.role)}</code>
        </Fact>
        <Fact name="Image">{spec.image}</Fact>
        <Fact name="Arrivals">
          {spec.arrival === 'spread' ? 'spread: fewest sessions first' : 'fill: fullest first'}
        </Fact>
        <Fact name="Busiest moment">{Math.round(spec.concurrency * 100)} % of the people</Fact>
        <Fact name="Seats on a host">at most {spec.mostSeats}</Fact>
        <Fact name="Disk">{spec.diskGiB} GiB a host</Fact>
        <Fact name="Profiles">{spec.shareGiBPerPerson} GiB a person</Fact>
        <Fact name="Subnet">room for {spec.ceilingFactor} times its first hosts</Fact>
        <Fact name="Runs">
          {spec.atATime} steps at a time, stop after {spec.failureLimit} failures
        </Fact>
      </dl>
    </Panel>
  );
}

/** The parts of an environment and how they hang together. */
function Plan({ spec }: { readonly spec: TemplateSpec }) {
  const items = spec.items.map((item) => item.name);
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
        subnet · pool {spec.role}
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
