import { serverSlice } from '../shared/server-slice';

/** The words of the production, as the server has them. */
export const customWordList = serverSlice('customWordList', 'customWords', { entities: ['custom-word'] });
