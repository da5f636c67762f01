import { serverSlice } from '../shared/server-slice';

/** Settings that are kept under a name. */
export const presets = serverSlice('presets', 'presets', { entities: ['preset'] });
/** Folders that are looked at for what arrives in them. */
export const watches = serverSlice('watches', 'watches', { entities: ['watch'] });
