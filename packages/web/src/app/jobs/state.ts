import { serverSlice } from '../shared/server-slice';

export const jobs = serverSlice('jobs', 'jobs', { entities: [], jobs: true });
