import { serverSlice } from '../shared/server-slice';

export const storages = serverSlice('storages', 'storages', { entities: ['asset', 'storage'], jobs: true });
