import { array, number, object, string, type InferType } from 'yup';

const KEY = 'neat-larder.upload';
const VERSION = 1;

const itemSchema = object({
  path: string().required(),
  bytes: number().integer().min(0).required(),
  modifiedMs: number().integer().required(),
  /** Where the server has what came of it so far; null before it was begun. */
  url: string().defined().nullable(),
  state: string().oneOf(['sent', 'interrupted']).required(),
});
const schema = object({
  version: number().oneOf([VERSION]).required(),
  batch: string()
    .matches(/^[A-Za-z0-9-]{8,64}$/)
    .required(),
  items: array(itemSchema).required(),
});

export type KeptItem = InferType<typeof itemSchema>;
export type KeptQueue = Pick<InferType<typeof schema>, 'batch' | 'items'>;

/**
 * What this window was sending, kept over a reload: the files themselves are not the page's to keep, but where the server has what
 * came of each is. Null where nothing is kept, or nothing that can be read.
 */
export function keptQueue(): KeptQueue | null {
  try {
    return schema.validateSync(JSON.parse(sessionStorage.getItem(KEY) ?? 'null'), { strict: true });
  } catch {
    return null;
  }
}

/** Keeps a queue, or forgets it when there is nothing in it. */
export function keepQueue({ batch, items }: KeptQueue): void {
  try {
    if (items.length === 0) sessionStorage.removeItem(KEY);
    else sessionStorage.setItem(KEY, JSON.stringify({ version: VERSION, batch, items }));
  } catch {
    // Without room to keep it, only a reload forgets it.
  }
}
