import { randomBytes } from 'node:crypto';
import { authenticator } from 'otplib';
import QRCode from 'qrcode-svg';
import { verify } from '@node-rs/argon2';
import type { Factor, FactorSet, NewFactor } from '../../contract';
import type { Scope, Sealing, SealPlace } from '../access';
import type { App } from '../app';
import { networkOf } from '../client-address';
import type { Connection } from '../db';
import { conflict, notFound, unusable } from '../problem';
import { keepSetting, setting } from '../settings';
import { write, type WriteHouse } from '../write';
import { hashOf, NOBODYS_PASSWORD, normalMail, operatorOf, refuseBeyond } from '../operators';
import { countTry, forgetTry } from './tries';

/*
 * Codes that change every thirty seconds (RFC 6238, with SHA-1, six digits, as every app has them). One of the step before
 * or after is taken too, because clocks differ, and none is taken twice (section 5.2).
 */

const STEP_SECONDS = 30;
const AROUND = 1;
const RECOVERY_CODES = 10;
const REQUIRED = 'second factor required';

/**
 * The time step of a code, when it is a right one now.
 * @param secret in Base32 (RFC 4648)
 * @param wall ms since 1970
 * @returns undefined when it is none
 */
export function stepOf(code: string, secret: string, wall: number): number | undefined {
  if (!/^\d{6}$/.test(code)) return undefined;
  const delta = authenticator
    .clone({ window: AROUND, step: STEP_SECONDS, epoch: wall })
    .checkDelta(code, secret);
  return delta === null ? undefined : Math.floor(wall / 1_000 / STEP_SECONDS) + delta;
}

/** The code of a secret at an instant: what an app shows. */
export const codeAt = (secret: string, wall: number): string =>
  authenticator.clone({ step: STEP_SECONDS, epoch: wall }).generate(secret);

interface Held {
  readonly factor_sealed: Buffer | null;
  readonly factor_step: number;
}

/**
 * Takes a code of an operator: of their second factor, or a recovery code, which is used up.
 * @returns false when it is none, or was taken before
 */
export async function takeCode(
  db: Connection,
  sealing: Sealing,
  operator: string,
  given: string,
  wall: number,
): Promise<boolean> {
  const row = await db.row<Held>('SELECT factor_sealed, factor_step FROM operator WHERE id = ?', [operator]);
  if (!row?.factor_sealed) return false;
  const code = given.replace(/[\s-]/g, '').toLowerCase();
  const step = stepOf(code, sealing.unseal(row.factor_sealed, factorPlace(operator)), wall);
  if (step !== undefined)
    return (
      (await db.write('UPDATE operator SET factor_step = ? WHERE id = ? AND factor_step < ?', [
        step,
        operator,
        step,
      ])) > 0
    );
  return (
    (await db.write('DELETE FROM recovery_code WHERE operator_id = ? AND code_hash = ?', [
      operator,
      hashOf(code),
    ])) > 0
  );
}

export const hasFactor = async (db: Connection, operator: string): Promise<boolean> =>
  (await db.row('SELECT id FROM operator WHERE id = ? AND factor_sealed IS NOT NULL', [operator])) !==
  undefined;

/** Whether everyone has to have a second factor. */
export async function isFactorRequired(db: Connection): Promise<boolean> {
  return (await setting(db, REQUIRED)) === 'yes';
}

export const requireFactor = (house: WriteHouse, scope: Scope, required: boolean): Promise<void> =>
  write(house, scope, [], async (tx) => {
    // Who asks it of everyone has one: else nobody could take it back.
    if (required && scope.actor.role !== 'system' && !(await hasFactor(tx, scope.actor.id)))
      throw conflict('second-factor', 'Set up your own second factor first.');
    const before = await isFactorRequired(tx);
    if (before === required) return;
    await keepSetting(tx, REQUIRED, required ? 'yes' : 'no');
    await tx.record({
      action: required ? 'require second factor' : 'require no second factor',
      subject: 'everyone',
      before: { required: before },
      after: { required },
      topic: 'ground',
      id: 'operators',
    });
  });

export async function factorOf(db: Connection, scope: Scope): Promise<Factor> {
  const { actor } = scope;
  const left = await db.row<{ n: number }>('SELECT COUNT(*) AS n FROM recovery_code WHERE operator_id = ?', [
    actor.id,
  ]);
  const isSet = await hasFactor(db, actor.id);
  return {
    isSet,
    toShow: isSet && scope.needsFactor === true,
    required: await isFactorRequired(db),
    recovery: left?.n ?? 0,
  };
}

/** @throws Problem 422 where `current` is no code of the factor that is set, nor, where none is set, their password */
async function refuseStranger(app: App, id: string, current: string): Promise<void> {
  if (await hasFactor(app.db, id)) {
    if (await takeCode(app.db, app.sealing, id, current, app.clock.wall())) return;
    throw unusable('current', 'is not a code of your present second factor, or was taken before');
  }
  const row = await app.db.row<{ hash: string }>('SELECT password_hash AS hash FROM operator WHERE id = ?', [
    id,
  ]);
  // Who comes by the identity service alone has shown there who they are.
  if (!row || row.hash === NOBODYS_PASSWORD) return;
  if (!(await verify(row.hash, current).catch(() => false)))
    throw unusable('current', 'is not your password');
}

const factorPlace = (operator: string): SealPlace => ['second factor', operator];
const newFactorPlace = (operator: string): SealPlace => ['new second factor', operator];

/** Begins to set one up: the secret that codes are made of. One that is set already stays until a first code of this. */
export function newFactor(house: WriteHouse, scope: Scope): Promise<{ secret: string; mail: string }> {
  const { id } = scope.actor;
  // 160 bits, as RFC 4226 asks for (section 4).
  const secret = authenticator.generateSecret(20);
  return write(house, scope, [], async (tx) => {
    const row = await tx.row<{ mail: string }>('SELECT mail FROM operator WHERE id = ?', [id]);
    if (!row) throw notFound('operator');
    await tx.write('UPDATE operator SET factor_new_sealed = ? WHERE id = ?', [
      house.sealing.seal(secret, newFactorPlace(id)),
      id,
    ]);
    return { secret, mail: row.mail };
  });
}

/** A secret as an app reads it: as text, as an address (`otpauth:`), and as a picture of that. */
export function factorShown(secret: string, mail: string, name: string): NewFactor {
  const uri = authenticator.keyuri(mail, 'Laager', secret);
  const picture = new QRCode({ content: uri, padding: 2, width: 200, height: 200, join: true }).svg();
  return {
    secret,
    uri,
    picture: `data:image/svg+xml;utf8,${encodeURIComponent(picture)}#${encodeURIComponent(name)}`,
  };
}

/**
 * Sets the second factor up by a first code of it, and by what shows that it is really them: who finds a browser signed in
 * must not lock its owner out. Other sign-ins end, which were without it, and API tokens.
 * @returns the recovery codes, shown this once
 * @throws Problem 422 beside `current` or `code`, 429 after too many tries
 */
export async function setFactor(
  app: App,
  scope: Scope,
  { code, current }: FactorSet,
  from: string,
  cookie: string | undefined,
): Promise<{ recovery: string[] }> {
  const { id, name } = scope.actor;
  const trying = { network: networkOf(from), account: id, browser: `factor of ${id}` };
  await countTry(app.db, app.databaseName, trying);
  const row = await app.db.row<{ factor_new_sealed: Buffer | null }>(
    'SELECT factor_new_sealed FROM operator WHERE id = ?',
    [id],
  );
  if (!row?.factor_new_sealed) throw conflict('second-factor', 'Begin anew: there is nothing to set up.');
  const secret = app.sealing.unseal(row.factor_new_sealed, newFactorPlace(id));
  const step = stepOf(code.replace(/\s/g, ''), secret, app.clock.wall());
  if (step === undefined) throw unusable('code', 'is not the one that the app shows now');
  await refuseStranger(app, id, current);
  await forgetTry(app.db, app.databaseName, trying);
  const recovery = Array.from({ length: RECOVERY_CODES }, newRecoveryCode);
  return write(app, scope, [], async (tx) => {
    await tx.write(
      'UPDATE operator SET factor_sealed = ?, factor_new_sealed = NULL, factor_step = ? WHERE id = ?',
      [app.sealing.seal(secret, factorPlace(id)), step, id],
    );
    await tx.write('DELETE FROM recovery_code WHERE operator_id = ?', [id]);
    for (const one of recovery)
      await tx.write('INSERT INTO recovery_code (operator_id, code_hash) VALUES (?, ?)', [
        id,
        hashOf(one.replace(/-/g, '')),
      ]);
    await tx.write('DELETE FROM web_session WHERE operator_id = ? AND token_hash <> ?', [
      id,
      hashOf(cookie ?? ''),
    ]);
    await tx.write('UPDATE web_session SET with_factor = TRUE WHERE operator_id = ?', [id]);
    await tx.write('DELETE FROM api_token WHERE operator_id = ?', [id]);
    await tx.record({ action: 'set up second factor', subject: name, topic: 'ground', id });
    return { recovery };
  });
}

/** Shows a code of one's second factor in a sign-in that came without one. @throws Problem 422, 429 */
export async function showFactor(
  app: App,
  scope: Scope,
  code: string,
  from: string,
  cookie: string | undefined,
): Promise<void> {
  const { actor } = scope;
  const trying = { network: networkOf(from), account: actor.id, browser: `factor of ${actor.id}` };
  await countTry(app.db, app.databaseName, trying);
  await write(app, scope, [], async (tx) => {
    if (!(await takeCode(tx, app.sealing, actor.id, code, app.clock.wall())))
      throw unusable('code', 'is not a code of yours, or was taken before');
    await tx.write('UPDATE web_session SET with_factor = TRUE WHERE operator_id = ? AND token_hash = ?', [
      actor.id,
      hashOf(cookie ?? ''),
    ]);
  });
  await forgetTry(app.db, app.databaseName, trying);
}

/** Letters and digits that are not taken for each other: 60 bits. */
function newRecoveryCode(): string {
  const letters = 'abcdefghjkmnpqrstuvwxyz23456789';
  const all = [...randomBytes(24)].filter((byte) => byte < letters.length * 8).slice(0, 12);
  if (all.length < 12) return newRecoveryCode();
  const text = all.map((byte) => letters[byte % letters.length] ?? '').join('');
  return `${text.slice(0, 4)}-${text.slice(4, 8)}-${text.slice(8)}`;
}

/** Gives one's own second factor up, by a code of it. @throws Problem 409 where everyone has to have one */
export async function dropOwnFactor(app: App, scope: Scope, code: string, from: string): Promise<void> {
  const { id, name } = scope.actor;
  if (await isFactorRequired(app.db)) throw conflict('second-factor', 'Everyone here has to have one.');
  const trying = { network: networkOf(from), account: id, browser: `factor of ${id}` };
  await countTry(app.db, app.databaseName, trying);
  await write(app, scope, [], async (tx) => {
    if (!(await takeCode(tx, app.sealing, id, code, app.clock.wall())))
      throw unusable('code', 'is not a code of yours, or was taken before');
    await forgetFactor(tx, id);
    await tx.record({ action: 'give up second factor', subject: name, topic: 'ground', id });
  });
  await forgetTry(app.db, app.databaseName, trying);
}

/** Nothing of an operator's second factor is kept. */
export async function forgetFactor(tx: Connection, operator: string): Promise<void> {
  await tx.write(
    'UPDATE operator SET factor_sealed = NULL, factor_new_sealed = NULL, factor_step = 0 WHERE id = ?',
    [operator],
  );
  await tx.write('DELETE FROM recovery_code WHERE operator_id = ?', [operator]);
}

/** Takes the second factor of someone away who has lost it, and ends their sign-ins. @throws Problem 404 */
export const dropFactorOf = (house: WriteHouse, scope: Scope, operator: string): Promise<void> =>
  write(house, scope, [], async (tx) => {
    const row = await operatorOf(tx, operator, house.clock.wall());
    await refuseBeyond(tx, scope, row);
    if (scope.actor.id === operator)
      throw conflict('oneself', 'Give up your own second factor by a code of it, or ask another lead.');
    await forgetFactor(tx, operator);
    await tx.write('DELETE FROM web_session WHERE operator_id = ?', [operator]);
    await tx.write('DELETE FROM api_token WHERE operator_id = ?', [operator]);
    await tx.record({ action: 'take second factor away', subject: row.name, topic: 'ground', id: operator });
  });

/** As `dropFactorOf`, by mail. */
export async function dropFactorByMail(house: WriteHouse, scope: Scope, mail: string): Promise<void> {
  const row = await house.db.row<{ id: string }>('SELECT id FROM operator WHERE mail = ?', [
    normalMail(mail),
  ]);
  if (!row) throw notFound('operator');
  await dropFactorOf(house, scope, row.id);
}

/** Seals the secrets of second factors that are not sealed with the key that seals now. @returns how many those were */
export const sealFactorsAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const rows = await tx.rows<{ id: string; factor_sealed: Buffer }>(
      'SELECT id, factor_sealed FROM operator WHERE factor_sealed IS NOT NULL',
    );
    let done = 0;
    for (const { id, factor_sealed: before } of rows.filter(
      (row) => !house.sealing.isSealedNow(row.factor_sealed, factorPlace(row.id)),
    ))
      done += await tx.write('UPDATE operator SET factor_sealed = ? WHERE id = ? AND factor_sealed = ?', [
        house.sealing.seal(house.sealing.unseal(before, factorPlace(id)), factorPlace(id)),
        id,
        before,
      ]);
    await tx.write('UPDATE operator SET factor_new_sealed = NULL');
    return done;
  });
