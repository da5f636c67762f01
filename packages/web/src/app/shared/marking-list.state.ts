import { serverSlice } from './server-slice';

/** The library's markings, as the server has them. */
export const markingList = serverSlice('markingList', 'markings', { entities: ['marking'] });
