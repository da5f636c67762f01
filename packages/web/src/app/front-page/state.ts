import { serverSlice } from '../shared/server-slice';

export const front = serverSlice('status', 'status', { entities: ['asset', 'storage'], jobs: true });
