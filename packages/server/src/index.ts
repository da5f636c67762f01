/** The server as other packages use it: starting it, its processes, and setting up a library. */
export { openDatabase, type DatabaseOptions } from './store/database';
export { AssetRow, JobRow, StorageRow } from './store/models';
export { bindModels } from './store/tables';
export { migrate } from './store/migrate';
export { editAssets } from './store/edits';
export { queueIngest } from './store/ingests';
export { addLiveBin } from './store/live-bins';
export { ensurePerson } from './store/people';
export { addProject, addStringOut } from './store/projects';
export { addMarking } from './store/markings';
export { addShopField, readFields } from './store/shop-fields';
export { addTag, addTagSet } from './store/tag-book';
export { addStorage, queueScan, watchStorages } from './store/storages';
export { releaseWorker } from './jobs/queue';
export { PROBE_ARGS } from './media/probe';
export type { ServeOptions } from './serve';
export { SimulatedVolumes, type SimulatedPlaces } from './stand-ins/volumes';
export { VOLUME_FILE } from './media/volume';
