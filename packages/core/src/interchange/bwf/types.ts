/** The broadcast audio extension chunk, as far as the library uses it (EBU Tech 3285, version 1 and 2). */
export interface Bext {
  readonly description: string;
  readonly originator: string;
  readonly originatorReference: string;
  /** `yyyy-mm-dd`, or empty. */
  readonly originationDate: string;
  /** `hh:mm:ss`, or empty. */
  readonly originationTime: string;
  /** Samples since midnight at the first sample of the file. */
  readonly timeReferenceSamples: number;
  readonly version: number;
  readonly codingHistory: string;
}

/** What a location recorder says of a take in its iXML chunk (iXML specification, root BWFXML). */
export interface Ixml {
  readonly project: string | null;
  readonly scene: string | null;
  readonly take: string | null;
  readonly tape: string | null;
  readonly note: string | null;
  readonly circled: boolean | null;
  /** Track names by channel number, from TRACK_LIST. */
  readonly tracks: ReadonlyMap<number, string>;
}

/** Where bytes come from: a file on the server, an array in tests. */
export interface ByteSource {
  readonly bytes: number;
  /** Reads at most `length` bytes from `offset`; fewer only at the end. */
  read(offset: number, length: number): Promise<Uint8Array>;
}
