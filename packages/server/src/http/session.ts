import { parse, serialize } from 'cookie';
import type { Request, Response } from 'express';
import type { Person } from '@larder/contract';
import { RequestError } from '../store/errors';
import { personOfToken, signIn, signOut } from '../store/people';

const COOKIE = 'larder_session';
const MAX_TRIES = 10;
const TRIES_WINDOW_MS = 60_000;

/** Wrong tries by login and address; guessing is slow by the hash and stopped by this. */
const tries = new Map<string, { count: number; since: number }>();

const tokenOf = (request: Request): string | undefined => parse(request.headers.cookie ?? '')[COOKIE];

export async function identify(request: Request): Promise<Person | null> {
  const token = tokenOf(request);
  return token ? personOfToken(token) : null;
}

function checkTries(key: string): void {
  const entry = tries.get(key);
  if (!entry) return;
  const left = entry.since + TRIES_WINDOW_MS - Date.now();
  if (left <= 0) tries.delete(key);
  else if (entry.count >= MAX_TRIES)
    throw new RequestError({ code: 'too-many-tries', seconds: Math.ceil(left / 1000) });
}

const setCookie = (response: Response, value: string, maxAgeMs: number): void =>
  void response.setHeader(
    'Set-Cookie',
    serialize(COOKIE, value, { httpOnly: true, sameSite: 'strict', path: '/', maxAge: Math.floor(maxAgeMs / 1000) }),
  );

export async function startSession(
  request: Request,
  response: Response,
  login: string,
  password: string,
): Promise<Person> {
  const key = `${login.toLowerCase()} ${request.ip ?? ''}`;
  checkTries(key);
  const session = await signIn(login, password);
  if (!session) {
    const entry = tries.get(key) ?? { count: 0, since: Date.now() };
    tries.set(key, { ...entry, count: entry.count + 1 });
    throw new RequestError({ code: 'wrong-password' });
  }
  tries.delete(key);
  setCookie(response, session.token, session.maxAgeMs);
  return session.person;
}

export async function endSession(request: Request, response: Response): Promise<void> {
  const token = tokenOf(request);
  if (token) await signOut(token);
  setCookie(response, '', 0);
}
