/** Live bins that most libraries and projects begin with. Their searches are read like any that somebody writes. */
export const STARTER_BINS = [
  { name: 'Untagged', query: 'no:tag' },
  { name: 'Unreviewed', query: 'no:verdict no:rating' },
  { name: 'Missing', query: 'is:missing' },
  { name: 'Without timecode', query: 'kind:(video or audio) no:start' },
  // Where things lie that nobody has filed: the names that systems give such folders; common practice, no source.
  { name: 'In folders of the system', query: 'path:(desktop or downloads or documents or trash)' },
  { name: 'Unused', query: 'is:unused' },
  { name: 'Half an hour and longer', query: 'duration>=30m' },
  { name: 'Added today', query: 'added:today' },
  { name: 'Without rights', query: 'no:rights' },
  { name: 'Twins', query: 'is:twin' },
] as const satisfies readonly { readonly name: string; readonly query: string }[];
