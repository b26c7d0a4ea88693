import type { ReactNode } from 'react';
import { Button as Pressable, type ButtonProps } from 'react-aria-components/Button';
import styles from './Button.module.css';

interface Props extends Omit<ButtonProps, 'className' | 'style' | 'children'> {
  /** `main`: the one main action of a page; `danger`: takes something away. */
  readonly kind?: 'main' | 'plain' | 'quiet' | 'danger';
  readonly icon?: ReactNode;
  readonly children: ReactNode;
}

const classOf = (kind: NonNullable<Props['kind']>): string =>
  [styles.button, styles[kind]].filter((name) => name !== undefined).join(' ');

export function Button({ kind = 'plain', icon, children, ...rest }: Props) {
  return (
    <Pressable {...rest} className={classOf(kind)}>
      {icon}
      {children}
    </Pressable>
  );
}

/** A link that looks like a button. */
export function ButtonLink({
  href,
  kind = 'plain',
  icon,
  newTab = false,
  children,
}: {
  readonly href: string;
  /** It leads out of here: to a tab of its own, which learns nothing of this one. */
  readonly newTab?: boolean;
  readonly kind?: 'main' | 'plain' | 'quiet' | 'danger';
  readonly icon?: ReactNode;
  readonly children: ReactNode;
}) {
  return (
    <a
      href={href}
      className={classOf(kind)}
      {...(newTab ? { target: '_blank', rel: 'noopener noreferrer' } : {})}
    >
      {icon}
      {children}
    </a>
  );
}
