import { serverSlice } from './server-slice';

/** One's own flags, as the server has them. */
export const flagList = serverSlice('flagList', 'flags', { entities: ['flag'] });
