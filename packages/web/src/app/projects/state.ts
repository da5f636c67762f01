import { serverSlice } from '../shared/server-slice';

export const projects = serverSlice('projects', 'projects', { entities: ['project', 'string-out'] });
