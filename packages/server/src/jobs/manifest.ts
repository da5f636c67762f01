import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { hostname } from 'node:os';
import { basename, join } from 'node:path';
import {
  c4Id,
  CHAIN_FILE,
  HISTORY_FOLDER,
  listFileName,
  readChain,
  readHashList,
  writeChain,
  writeHashList,
  type ChainLink,
} from '@larder/core/interchange/mhl';
import { ManagedStore } from '../media/managed-store';
import { hashedFiles } from '../store/ingest-items';
import type { JobContext } from './context';

const TOOL = { name: 'Neat Larder', version: '0.1.0' } as const;
const IGNORED = ['.DS_Store', HISTORY_FOLDER, `${HISTORY_FOLDER}/`];
const inFolder = (...steps: readonly string[]): string => steps.filter(Boolean).join('/');

/** Hashes of earlier generations by path, so that a file copied again is said to be verified. */
async function earlier(folder: string, chain: readonly ChainLink[]): Promise<Map<string, string>> {
  const known = new Map<string, string>();
  for (const { path } of chain) {
    const { list } = readHashList(await readFile(join(folder, basename(path)), 'utf8').catch(() => ''));
    for (const { path: file, hashes } of list?.entries ?? []) {
      const hash = hashes.find(({ element }) => element === 'xxh64');
      if (hash) known.set(file, hash.value);
    }
  }
  return known;
}

/**
 * Adds a generation to the ASC MHL history of a folder: every file that this job copied there, with its hash. Begun again after it
 * was killed anywhere, it adds none twice: the list bears the time of its last hash, so it comes out the same each time.
 */
export async function writeManifest({ db, job }: JobContext, root: string, folder: string): Promise<void> {
  const files = await hashedFiles(db, job.id);
  if (files.length === 0) return;
  const history = join(root, folder, HISTORY_FOLDER);
  const chain = readChain(await readFile(join(history, CHAIN_FILE), 'utf8').catch(() => ''));
  const createdMs = files.reduce((last, { atMs }) => Math.max(last, atMs), 0);
  const list = (generation: number, known: ReadonlyMap<string, string>) => ({
    generation,
    path: listFileName(generation, basename(folder === '' ? root : folder), createdMs),
    document: writeHashList({
      createdMs,
      hostName: hostname(),
      tool: TOOL,
      process: 'transfer',
      ignored: IGNORED,
      entries: files.map(({ to, bytes, modifiedMs, xxh64, atMs }) => {
        const path = folder === '' ? to : to.slice(folder.length + 1);
        const action = known.get(path) === xxh64 ? ('verified' as const) : ('original' as const);
        return { path, bytes, modifiedMs, hashes: [{ element: 'xxh64' as const, value: xxh64, action, atMs }] };
      }),
    }),
  });
  const last = chain.at(-1);
  if (last) {
    const written = list(last.generation, await earlier(history, chain.slice(0, -1)));
    if (written.path === last.path && c4Of(written.document) === last.c4) return;
  }
  const { document, ...next } = list(
    Math.max(0, ...chain.map((link) => link.generation)) + 1,
    await earlier(history, chain),
  );
  const store = new ManagedStore(root);
  await store.add(inFolder(folder, HISTORY_FOLDER, next.path), document);
  const link = { ...next, c4: c4Of(document) };
  await store.replaceChain(inFolder(folder, HISTORY_FOLDER, CHAIN_FILE), writeChain([...chain, link]));
}

const c4Of = (document: string): string => c4Id(createHash('sha512').update(document).digest());
