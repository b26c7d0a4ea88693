import { useState } from 'react';
import type { AddressRange, Kept, Mark } from '../../contract';
import { get, newKey, send, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { useLive } from '../../client/live';
import { BarCell } from '../../ui/BarCell';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark as Drawn } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { AddressMap } from './AddressMap';
import { AddRange, KeepClear, LargerRange } from './RangeForms';
import styles from './AddressPlan.module.css';

interface Props {
  readonly initial: { readonly ranges: readonly AddressRange[]; readonly kept: readonly Kept[] };
  readonly sites: readonly { readonly code: string; readonly name: string }[];
  readonly marks: Readonly<Record<string, Mark>>;
  /** Whether who looks may change ranges, and blocks. */
  readonly mayKeep: boolean;
  readonly mayGrow: boolean;
}

interface Row {
  readonly customer: string;
  readonly site: string;
  readonly cidr: string;
  readonly used: number;
}

/** Who has which addresses, and what is left? */
export function AddressPlan({ initial, sites, marks, mayKeep, mayGrow }: Props) {
  const { value, again } = useLive(
    { key: 'address plan', read: () => get('/addresses', {}) },
    initial,
    '/events',
    (change) => change.topic === 'run' || change.topic === 'ground',
  );
  const [problem, setProblem] = useState<string>();
  const [larger, setLarger] = useState<AddressRange>();
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setProblem(undefined);
    try {
      await work();
    } catch (error) {
      setProblem(whyOf(error));
    }
    again();
  };
  const nameOf = (site: string): string => sites.find((one) => one.code === site)?.name ?? site;
  const rows = value.ranges.flatMap(({ site, given }) =>
    given.map((one) => ({ ...one, site: nameOf(site), code: site })),
  );
  const columns: readonly Column<Row & { readonly code: string }>[] = [
    {
      id: 'customer',
      title: 'Customer',
      value: (row) => row.customer,
      cell: (row) => {
        const mark = marks[row.customer];
        return (
          <a href={`/customers/${row.customer}`} className={styles.owner}>
            {mark && <Drawn mark={mark} size={24} />} {row.customer}
          </a>
        );
      },
    },
    { id: 'site', title: 'Site', value: (row) => row.site },
    { id: 'cidr', title: 'Block', value: (row) => row.cidr, cell: (row) => <code>{row.cidr}</code> },
    {
      id: 'used',
      title: 'In subnets',
      value: (row) => row.used,
      cell: (row) => <BarCell part={row.used}>{Math.round(100 * row.used)} %</BarCell>,
      figure: true,
      width: '26%',
    },
    ...(mayGrow
      ? [
          {
            id: 'grow',
            title: 'Grow',
            value: () => '',
            cell: (row: Row & { readonly code: string }) => (
              <Button
                kind="quiet"
                onPress={() =>
                  void act(() =>
                    send(
                      'POST',
                      '/customers/{customer}/blocks/{site}/larger',
                      { customer: row.customer, site: row.code },
                      { key: newKey() },
                    ),
                  )
                }
              >
                Twice as large
              </Button>
            ),
          },
        ]
      : []),
  ];
  return (
    <div className={styles.page}>
      <h1 className="sr">Addresses</h1>
      {problem !== undefined && (
        <p role="alert" className={styles.problem}>
          {problem}
        </p>
      )}
      <div className={styles.sides}>
        <div className={styles.ranges}>
          {value.ranges.length === 0 && (
            <Panel>
              <Empty says="No site has a range yet: customers get their blocks of one." />
            </Panel>
          )}
          {value.ranges.map((range) => (
            <Panel
              key={`${range.site} ${range.cidr}`}
              title={`${nameOf(range.site)} ${range.cidr}`}
              side={
                mayKeep && (
                  <span className={styles.acts}>
                    <Button kind="quiet" onPress={() => setLarger(range)}>
                      Make larger
                    </Button>
                    <Button
                      kind="quiet"
                      onPress={() =>
                        void act(() =>
                          send(
                            'PUT',
                            '/sites/{site}/ranges',
                            { site: range.site },
                            {
                              body: { cidr: range.cidr, closed: !range.closed },
                              key: newKey(),
                            },
                          ),
                        )
                      }
                    >
                      {range.closed ? 'Open' : 'Close'}
                    </Button>
                    {range.given.length + range.others === 0 && (
                      <Button
                        kind="quiet"
                        onPress={() =>
                          void act(() =>
                            send(
                              'DELETE',
                              '/sites/{site}/ranges',
                              { site: range.site },
                              {
                                query: { cidr: range.cidr },
                                key: newKey(),
                              },
                            ),
                          )
                        }
                      >
                        Remove
                      </Button>
                    )}
                  </span>
                )
              }
            >
              <p className={styles.says}>
                {range.closed && <Chip tone="care">closed, nothing more is given</Chip>}
                <b>{Math.round(range.full * 1000) / 10} %</b> given in{' '}
                {count(range.given.length + range.others, 'block', 'blocks')}
                {range.others > 0 && `, ${range.others} of them to others`};{' '}
                {range.largestFree === null ? (
                  'nothing is free'
                ) : (
                  <>
                    largest free <code>{range.largestFree}</code>
                  </>
                )}
                {range.fragmentation > 0.5 && ', the rest is scattered'}
              </p>
              <AddressMap range={range} marks={marks} />
            </Panel>
          ))}
        </div>
        {mayKeep && (
          <div className={styles.forms}>
            <AddRange sites={sites} onDone={again} />
            <KeepClear kept={value.kept} onDone={again} />
          </div>
        )}
      </div>
      <Panel title={count(rows.length, 'block', 'blocks')} flush>
        <Table
          label="blocks"
          rows={rows}
          columns={columns}
          idOf={(row) => `${row.code} ${row.cidr}`}
          empty={<Empty says="No customer has a block yet: the first environment at a site brings one." />}
        />
      </Panel>
      {larger && (
        <LargerRange
          range={larger}
          name={nameOf(larger.site)}
          onClose={() => setLarger(undefined)}
          onDone={() => {
            setLarger(undefined);
            again();
          }}
        />
      )}
    </div>
  );
}
