export type Attributes = Readonly<Record<string, unknown>>;

/** Anything this provider keeps: networks, hosts, pools, and whatever else its customers name. */
export interface Resource {
  readonly id: string;
  readonly kind: string;
  readonly site: string;
  readonly name: string;
  readonly state: string;
  readonly version: number;
  readonly customer: string | null;
  readonly attrs: Attributes;
  readonly tags: Readonly<Record<string, string>>;
  readonly created_at: number;
  readonly gone_at: number | null;
  /** The operation that is at work on it, and began first. */
  readonly busy_with: string | null;
}

export interface Operation {
  readonly id: string;
  readonly resource: string;
  readonly action: string;
  readonly parameters: string;
  readonly state: 'working' | 'done' | 'failed';
  readonly says: string;
  readonly begun_at: number;
  readonly ready_at: number;
}
