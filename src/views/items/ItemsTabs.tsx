import styles from './ItemsTabs.module.css';

/** The two pages about items: who gets what, and what there is to get. */
export function ItemsTabs({
  code,
  at,
  environment,
}: {
  readonly code: string;
  readonly at: 'grants' | 'published';
  readonly environment?: string | undefined;
}) {
  const of = environment === undefined ? '' : `?environment=${environment}`;
  return (
    <nav className={styles.tabs} aria-label="Items">
      <a href={`/customers/${code}/items${of}`} {...current(at === 'grants')}>
        Who gets what
      </a>
      <a href={`/customers/${code}/items/published${of}`} {...current(at === 'published')}>
        What is published
      </a>
    </nav>
  );
}

const current = (is: boolean): { 'aria-current'?: 'page' } => (is ? { 'aria-current': 'page' } : {});
