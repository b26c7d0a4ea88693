import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { vi } from 'vitest';
import { freePort, type Processes, type Member } from '../../../scripts/lib.mjs';

/** Debian's place for the replication library, which comes with its MariaDB server. */
const LIBRARY = '/usr/lib/galera/libgalera_smm.so';
const NODES = 3;
/** MariaDB hands a new member its data as its own user; as root it would refuse. */
const USER = process.getuid?.() === 0 ? 'mysql' : (process.env.USER ?? 'mysql');

interface Ports {
  readonly sql: number;
  readonly group: number;
  readonly transfer: number;
  readonly catchUp: number;
}

/** Three MariaDB servers on loopback that replicate each other: each takes writes, none is the first. */
export class Cluster {
  private readonly nodes: { readonly ports: Ports; member: Member }[] = [];

  constructor(
    private readonly processes: Processes,
    private readonly folder: string,
  ) {}

  async start(firstPort: number): Promise<void> {
    if (process.getuid?.() === 0) spawnSync('chown', [USER, this.folder]);
    const ports: Ports[] = [];
    for (let i = 0; i < NODES; i++) {
      const from = firstPort + i * 40;
      ports.push({
        sql: await freePort(from),
        group: await freePort(from + 10),
        transfer: await freePort(from + 20),
        catchUp: await freePort(from + 30),
      });
    }
    for (const [i, own] of ports.entries()) {
      this.nodes.push({ ports: own, member: this.begin(i, own, ports) });
      await this.untilReady(i);
    }
  }

  sqlPort(node: number): number {
    return this.nodes[node]?.ports.sql ?? 0;
  }

  member(node: number): Member | undefined {
    return this.nodes[node]?.member;
  }

  private begin(i: number, own: Ports, all: readonly Ports[]): Member {
    const data = join(this.folder, `node${i}`);
    mkdirSync(data, { recursive: true });
    if (process.getuid?.() === 0) spawnSync('chown', [USER, data]);
    const made = spawnSync(
      'mariadb-install-db',
      [
        '--no-defaults',
        `--datadir=${data}`,
        `--user=${USER}`,
        '--auth-root-authentication-method=normal',
        '--skip-test-db',
      ],
      { encoding: 'utf8' },
    );
    if (made.status !== 0) throw new Error(made.stderr);
    const others = i === 0 ? '' : all.map((ports) => `127.0.0.1:${ports.group}`).join(',');
    return this.processes.start(
      `node${i}`,
      'mariadbd',
      [
        '--no-defaults',
        `--datadir=${data}`,
        `--user=${USER}`,
        `--port=${own.sql}`,
        '--bind-address=127.0.0.1',
        `--socket=${join(data, 's.sock')}`,
        `--pid-file=${join(data, 'pid')}`,
        '--skip-name-resolve',
        '--binlog-format=ROW',
        '--innodb-autoinc-lock-mode=2',
        '--innodb-buffer-pool-size=128M',
        '--innodb-flush-log-at-trx-commit=2',
        '--character-set-server=utf8mb4',
        '--wsrep-on=ON',
        `--wsrep-provider=${LIBRARY}`,
        '--wsrep-cluster-name=laager-test',
        `--wsrep-cluster-address=gcomm://${others}`,
        `--wsrep-node-name=node${i}`,
        `--wsrep-node-address=127.0.0.1:${own.group}`,
        '--wsrep-sst-method=rsync',
        `--wsrep-sst-receive-address=127.0.0.1:${own.transfer}`,
        // What one server has answered, the others know before they answer.
        '--wsrep-sync-wait=1',
        `--wsrep-provider-options=base_port=${own.group};gmcast.listen_addr=tcp://127.0.0.1:${own.group};ist.recv_addr=127.0.0.1:${own.catchUp}`,
      ],
      {},
    );
  }

  /** Waits until a server is a member in step with the others. */
  private async untilReady(i: number): Promise<void> {
    try {
      await vi.waitUntil(
        async () => {
          if (this.nodes[i]?.member.gone) throw new Error('it ended');
          return (await this.status(i, 'wsrep_local_state_comment')) === 'Synced';
        },
        {
          timeout: 60_000,
          interval: 200,
        },
      );
    } catch (error) {
      throw new Error(`node${i}: ${this.nodes[i]?.member.tail() ?? ''}`, { cause: error });
    }
  }

  async status(i: number, name: string): Promise<string | undefined> {
    try {
      const connection = await mysql.createConnection({
        host: '127.0.0.1',
        port: this.sqlPort(i),
        user: 'root',
        connectTimeout: 1_000,
      });
      const [rows] = await connection.query<mysql.RowDataPacket[]>(`SHOW STATUS LIKE '${name}'`);
      await connection.end();
      return rows[0]?.Value as string | undefined;
    } catch {
      return undefined;
    }
  }
}
