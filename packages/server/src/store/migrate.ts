import type { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import { libraryMigration } from './migrations/001-library';
import { shelfMigration } from './migrations/002-shelf';
import { ingestMigration } from './migrations/003-ingest';
import { loggingMigration } from './migrations/004-logging';
import { shopFieldsMigration } from './migrations/005-shop-fields';
import { tagSetsMigration } from './migrations/006-tag-sets';
import { markersMigration } from './migrations/007-markers';
import { loggingPlacesMigration } from './migrations/008-logging-places';
import { subclipsMigration } from './migrations/009-subclips';
import { appendFeedMigration } from './migrations/010-append-feed';
import { tablesMigration } from './migrations/011-tables';
import { undoStepsMigration } from './migrations/012-undo-steps';
import { postersMigration } from './migrations/013-posters';
import { markingsMigration } from './migrations/014-markings';
import { layoutsMigration } from './migrations/015-layouts';
import { atAGlanceMigration } from './migrations/016-at-a-glance';
import { runMarkersMigration } from './migrations/018-run-markers';
import { sidecarsMigration } from './migrations/019-sidecars';
import { kanaMigration } from './migrations/020-kana';
import { liveBinPlacesMigration } from './migrations/021-live-bin-places';
import { pastSearchesMigration } from './migrations/022-past-searches';
import { arrivalsMigration } from './migrations/023-arrivals';
import { foldingMigration } from './migrations/024-folding';
import { transcriptsMigration } from './migrations/025-transcripts';
import { dismissedHitsMigration } from './migrations/026-dismissed-hits';
import { customWordsMigration } from './migrations/028-custom-words';
import { heardChannelsMigration } from './migrations/029-heard-channels';
import { relinkPlansMigration } from './migrations/030-relink-plans';
import { restoreMigration } from './migrations/031-restore';
import { presenceMigration } from './migrations/032-presence';
import { semblanceMigration } from './migrations/033-semblance';
import { listedClipsMigration } from './migrations/035-listed-clips';
import { awayOriginalsMigration } from './migrations/034-away-originals';
import { recognisedStoragesMigration } from './migrations/027-recognised-storages';
import { manyWritersMigration } from './migrations/017-many-writers';

/** Brings the database to the shape this version needs; does nothing when it has it. Gives the names of what was carried out. */
export async function migrate(db: Sequelize): Promise<string[]> {
  const umzug = new Umzug({
    migrations: [
      libraryMigration,
      shelfMigration,
      ingestMigration,
      loggingMigration,
      shopFieldsMigration,
      tagSetsMigration,
      markersMigration,
      loggingPlacesMigration,
      subclipsMigration,
      appendFeedMigration,
      tablesMigration,
      undoStepsMigration,
      postersMigration,
      markingsMigration,
      layoutsMigration,
      atAGlanceMigration,
      manyWritersMigration,
      runMarkersMigration,
      sidecarsMigration,
      kanaMigration,
      liveBinPlacesMigration,
      pastSearchesMigration,
      arrivalsMigration,
      foldingMigration,
      transcriptsMigration,
      dismissedHitsMigration,
      recognisedStoragesMigration,
      customWordsMigration,
      heardChannelsMigration,
      relinkPlansMigration,
      restoreMigration,
      presenceMigration,
      semblanceMigration,
      awayOriginalsMigration,
      listedClipsMigration,
    ],
    context: db,
    storage: new SequelizeStorage({ sequelize: db, tableName: 'migration', timestamps: false }),
    logger: undefined,
  });
  return (await umzug.up()).map(({ name }) => name);
}
