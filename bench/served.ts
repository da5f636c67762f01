import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Home } from '@larder/command/home';
import { Library } from '@larder/command/library';
import { addStorage, addTag, addTagSet, ensurePerson } from '@larder/server';
import { catalogueMany } from '../packages/server/test/many';

export const PASSWORD = 'only for the bench';

export interface Served {
  readonly library: Library;
  readonly base: string;
  readonly db: Parameters<Parameters<Library['withModels']>[0]>[0];
}

/** Where assets can be put, before the library is served. */
export interface Place {
  readonly library: Library;
  readonly db: Served['db'];
  readonly shelf: string;
}

/** A served library of so many clips without files, or as it is filled, with a set of tags and people to log them; thrown away afterwards. */
export async function served(
  clips: number | ((place: Place) => Promise<void>),
  work: (served: Served) => Promise<void>,
): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-'));
  const shelf = join(folder, 'shelf');
  mkdirSync(shelf);
  // Not empty, or it would be taken for a mount point with nothing mounted.
  writeFileSync(join(shelf, 'readme.txt'), '');
  const library = await Library.open({ home: new Home(join(folder, 'home')), port: 0, demoPassword: PASSWORD });
  try {
    await library.withModels(async (db) => {
      const { id: keeper } = await ensurePerson('maren', 'Maren Oakley', 'manager', PASSWORD);
      if (typeof clips === 'number') {
        const storage = await addStorage(db, keeper, { name: 'Large', rootPath: shelf });
        await catalogueMany(library, storage.id, clips);
      } else await clips({ library, db, shelf });
      const plain = { description: '', letter: '', synonyms: [] };
      const setId = await addTagSet(db, keeper, { name: 'Light', description: '', letter: '', pattern: 'dots' });
      for (const name of ['dawn', 'dusk', 'noon']) await addTag(db, keeper, { ...plain, name, setId });
      await library.startServer();
      await work({ library, db, base: `http://127.0.0.1:${library.port}` });
    });
  } finally {
    await library.stop();
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}
