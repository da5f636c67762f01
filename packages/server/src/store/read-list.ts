import { randomUUID } from 'node:crypto';
import { UniqueConstraintError, type Sequelize } from 'sequelize';
import { cutsIn, onOneLine, wordReadLoss, type Cut } from '@larder/core/sequence';
import { LONGEST_NAME, MOST_ITEMS, type ListRead, type ReadList } from '@larder/contract';
import { write } from './change-feed';
import { checkedList } from './conform';
import { notFound, refused } from './errors';
import { addListedClips } from './listed-clips';
import { ProjectRow, StorageRow, StringOutRow } from './models';

/** So many things that were lost are told one by one. */
const TOLD = 50;

/** What is on a storage that is away cannot be missing from it. */
async function refuseIfAway(storageId: number): Promise<void> {
  const storage = await StorageRow.findByPk(storageId);
  if (!storage) throw notFound('storage');
  if (storage.state !== 'online')
    throw refused(`“${storage.name}” is not mounted. Mount it, or choose another storage for clips never seen.`);
}

/**
 * Makes a string-out of a cut list that was brought in. Of clips that the library has never seen, the list tells reel and timecode: they
 * are catalogued as missing where they are said to be, and found as all that is missing.
 */
export async function readList(
  db: Sequelize,
  personId: number,
  { expectedOn, name, projectId, ...asked }: ReadList,
): Promise<ListRead> {
  const { issues, list, report } = await checkedList(db, asked);
  if (!(await ProjectRow.findByPk(projectId))) throw notFound('project');
  if (expectedOn !== null) await refuseIfAway(expectedOn);
  const { cuts, losses, startFrame, unseen } = cutsIn(report, { listsUnseen: expectedOn !== null });
  const words = [...issues, ...losses.map(wordReadLoss)];
  if (cuts.length === 0) throw refused(`Nothing of ${asked.fileName} can be cut. ${words.slice(0, 3).join(' ')}`);
  if (cuts.length > MOST_ITEMS)
    throw refused(
      `A string-out has at most ${MOST_ITEMS} clips, and this list has ${cuts.length}. Bring it in in parts.`,
    );
  const called = (name || onOneLine(list.title) || onOneLine(asked.fileName) || 'List').slice(0, LONGEST_NAME);
  const { value } = await write(db, personId, async (writing) => {
    const { log, transaction } = writing;
    const ids =
      expectedOn === null || unseen.length === 0
        ? []
        : await addListedClips(db, writing, unseen, { from: asked.fileName, storageId: expectedOn });
    const assetOf = ({ of }: Cut): number => ('assetId' in of ? of.assetId : (ids[of.unseen] as number));
    const items = cuts.map((cut) => ({ id: randomUUID(), assetId: assetOf(cut), in: cut.in, out: cut.out }));
    const row = await StringOutRow.create(
      { projectId, name: called, counting: list.counting.id, startFrame, items, personId, updatedMs: Date.now() },
      { transaction },
    );
    log({ action: 'add', entity: 'string-out', entityId: row.id, after: { name: called, items: items.length } });
    return { id: row.id, name: called };
  }).catch((error: unknown) => {
    if (!(error instanceof UniqueConstraintError)) throw error;
    throw refused('Somebody else is bringing in a list of the same clips. Bring it in again.');
  });
  return {
    ...{ stringOutId: value.id, name: value.name, items: cuts.length, unseen: unseen.length },
    losses: words.length > TOLD ? [...words.slice(0, TOLD), `And ${words.length - TOLD} more.`] : words,
  };
}
