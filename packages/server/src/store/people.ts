import { createHash, randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import DataLoader from 'dataloader';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import type { Person, Role } from '@larder/contract';
import { PersonRow, SessionRow } from './models';

const SESSION_MS = 14 * 24 * 3600 * 1000;
// Compared with when nobody has that login, so that guessing logins takes as long as guessing passwords.
const NOBODY = hash(randomBytes(16).toString('hex'));

const digest = (token: string): string => createHash('sha256').update(token).digest('hex');
const personOf = ({ id, login, name, role }: PersonRow): Person => ({ id, login, name, role });

/** Makes a person, or leaves the one of that login as it is. The password is kept as an Argon2id hash. */
export async function ensurePerson(login: string, name: string, role: Role, password: string): Promise<Person> {
  const known = await PersonRow.findOne({ where: { login } });
  return personOf(known ?? (await PersonRow.create({ login, name, role, passwordHash: await hash(password) })));
}

export async function signIn(
  login: string,
  password: string,
): Promise<{ person: Person; token: string; maxAgeMs: number } | null> {
  const row = await PersonRow.findOne({ where: { login } });
  const matches = await verify(row?.passwordHash ?? (await NOBODY), password);
  if (!row || !matches) return null;
  const token = randomBytes(32).toString('base64url');
  await SessionRow.destroy({ where: { expiresMs: { [Op.lt]: Date.now() } } });
  await SessionRow.create({ tokenHash: digest(token), personId: row.id, expiresMs: Date.now() + SESSION_MS });
  return { person: personOf(row), token, maxAgeMs: SESSION_MS };
}

/** Asked by every request: those that arrive together ask one question. Nothing is kept, so whoever signs out is out at once. */
const sessions = new DataLoader<string, Person | null>(
  async (hashes) => {
    const found = await (SessionRow.sequelize as Sequelize).query<Person & { readonly hash: string }>(
      'SELECT s.token_hash AS hash, p.id, p.login, p.name, p.role FROM session s JOIN person p ON p.id = s.person_id WHERE s.token_hash IN (:hashes) AND s.expires_ms >= :now',
      { replacements: { hashes: [...new Set(hashes)], now: Date.now() }, type: QueryTypes.SELECT },
    );
    const people = new Map(found.map(({ hash: tokenHash, ...person }) => [tokenHash, person]));
    return hashes.map((tokenHash) => people.get(tokenHash) ?? null);
  },
  { cache: false, batchScheduleFn: setImmediate },
);

export const personOfToken = (token: string): Promise<Person | null> => sessions.load(digest(token));

export const signOut = async (token: string): Promise<void> =>
  void (await SessionRow.destroy({ where: { tokenHash: digest(token) } }));
export const allPeople = async (): Promise<Person[]> => (await PersonRow.findAll({ order: ['id'] })).map(personOf);
