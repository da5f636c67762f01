import type { Sequelize } from 'sequelize';
import type { Recognising } from '@larder/contract';
import { enqueue } from '../jobs/queue';
import { assetsById } from './assets';
import { recognitionJob } from '../jobs/catalogue';
import { IS_UNDERWAY } from '../jobs/states';
import { channelsIn, streamsOf } from '../media/sound-streams';
import { select } from './database';

/** Has what is said in some assets recognised, each by a job of its own, or each of their channels; subclips through their wholes. */
export async function queueRecognition(
  db: Sequelize,
  personId: number | null,
  assetIds: readonly number[],
  apart = false,
): Promise<Recognising> {
  const asked = await assetsById(db, assetIds);
  const wholes = await assetsById(db, [...new Set(asked.map(({ id, parentId }) => parentId ?? id))]);
  const going = new Set(
    (
      await select<{ assetId: number }>(
        db,
        `SELECT asset_id AS assetId FROM job WHERE kind = 'recognise' AND ${IS_UNDERWAY}`,
      )
    ).map(({ assetId }) => assetId),
  );
  const left: { assetId: number; why: string }[] = [];
  const taken = wholes.filter(({ id, sound }) => {
    const isSingle = apart && sound !== null && channelsIn(streamsOf(sound)) < 2;
    const why =
      sound === null
        ? 'It has no sound.'
        : isSingle
          ? 'It has one channel only.'
          : going.has(id)
            ? 'It is in the queue already.'
            : null;
    if (why !== null) left.push({ assetId: id, why });
    return why === null;
  });
  await enqueue(taken.map((asset) => ({ ...recognitionJob(asset, apart), personId })));
  return { queued: taken.length, left };
}
