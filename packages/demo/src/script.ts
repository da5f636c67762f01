import { readFileSync } from 'node:fs';
import { parse } from 'yaml';

export const PLACES = ['lock', 'boatyard', 'foundry', 'towpath', 'town', 'kitchen', 'workshop'] as const;
export type Place = (typeof PLACES)[number];
export type Shot = 'wide' | 'mid' | 'close';
export type Light = 'dawn' | 'day' | 'dusk' | 'night' | 'rain' | 'fire';
export type Hear = 'voice' | 'water' | 'rain' | 'bell' | 'hammer' | 'fire' | 'music';

export interface CastMember {
  readonly name: string;
  readonly voice: string;
  readonly coat: string;
  readonly hair: string;
  readonly skin: string;
}

export interface LogEntry {
  readonly title?: string;
  readonly tags?: readonly string[];
  readonly verdict?: 'circled' | 'hold' | 'ng';
  readonly description?: string;
  readonly notes?: string;
}

/** What a picture shows. */
export interface Picture {
  readonly place: Place;
  readonly shot: Shot;
  readonly light: Light;
  readonly size: readonly [number, number];
  readonly who?: string;
  readonly boat?: boolean;
  readonly aged?: boolean;
  readonly moves?: 'pan' | 'push' | 'still';
}

/** Where a file of the demo lies: storage by name, folder and file within it. */
export interface Placed {
  readonly storage: string;
  readonly folder: string;
  readonly file: string;
  readonly log?: LogEntry;
}

export interface Clip extends Picture, Placed {
  readonly rate: string;
  readonly format: 'h264-mov' | 'h264-mp4' | 'h264-bare' | 'vc3-mov';
  /** Length; what is spoken decides it where something is. */
  readonly seconds?: number;
  readonly says?: string;
  readonly shotOn?: string;
  /** Streams of one channel each, as cameras write them; one where it is not said. */
  readonly microphones?: number;
  readonly damage?: 'cut off';
  readonly carries: {
    readonly timecode?: string;
    readonly reel?: string;
    readonly scene?: string;
    readonly take?: string;
    readonly at?: string;
  };
}

export type Still = Picture & Placed;
export interface PictureSequence extends Picture {
  readonly storage: string;
  readonly folder: string;
  readonly prefix: string;
  readonly first: number;
  readonly frames: number;
  readonly padding: number;
  /** Numbers of pictures that are not there. */
  readonly missing?: readonly number[];
  readonly log?: LogEntry;
}

export interface Sound extends Placed {
  readonly hear: Hear;
  readonly who?: string;
  readonly says?: string;
  readonly seconds?: number;
  readonly tempo?: number;
  readonly pitch?: number;
  readonly channels: number;
  readonly bwf?: {
    readonly scene: string;
    readonly take: string;
    readonly tape: string;
    readonly date: string;
    readonly time: string;
    readonly circled?: boolean;
    readonly note?: string;
  };
}

export type Afterwards =
  | { readonly do: 'move'; readonly storage: string; readonly from: string; readonly to: string }
  | { readonly do: 'replace'; readonly storage: string; readonly path: string; readonly with: string }
  | {
      readonly do: 'lookalike';
      readonly storage: string;
      readonly from: string;
      readonly with: string;
      readonly to: string;
    }
  | { readonly do: 'remove'; readonly storage: string; readonly path: string };

/** A folder of a storage as it was written to a tape. */
export interface Taped {
  readonly tape: string;
  readonly storage: string;
  readonly folder: string;
}

export interface DemoStorage {
  readonly name: string;
  readonly folder: string;
  readonly offline?: boolean;
  /** The library may copy to it. */
  readonly managed?: boolean;
  /** It is a volume of this identity, which can be plugged in and pulled; nothing of it is catalogued at first. */
  readonly volume?: string;
}

export interface DemoScript {
  readonly title: string;
  readonly storages: readonly DemoStorage[];
  readonly people: readonly {
    readonly login: string;
    readonly name: string;
    readonly role: 'manager' | 'editor' | 'viewer';
  }[];
  readonly cast: Readonly<Record<string, CastMember>>;
  readonly clips: readonly Clip[];
  readonly stills: readonly Still[];
  readonly sequences: readonly PictureSequence[];
  readonly sound: readonly Sound[];
  readonly afterwards: readonly Afterwards[];
  readonly archive: {
    readonly name: string;
    readonly secondsToLoad: number;
    readonly bytesPerSecond: number;
    readonly tapes: readonly Taped[];
  };
  /** Names of the places that pictures show, by what is drawn. */
  readonly called: Readonly<Record<string, string>>;
  readonly tagSets: readonly {
    readonly name: string;
    readonly description: string;
    readonly pattern: string;
    readonly tags: readonly string[];
  }[];
  /** Markers of files by their names, in the form in which they are set. */
  readonly markers: readonly { readonly file: string; readonly set: readonly object[] }[];
  readonly markings: readonly { readonly name: string; readonly colour: string; readonly rule: string }[];
  /** What no recogniser knows. */
  readonly names: string;
  readonly fields: readonly {
    readonly label: string;
    readonly type: 'text' | 'number' | 'choice';
    readonly group: string;
    readonly help: string;
    readonly choices?: readonly string[];
    readonly unit?: string;
  }[];
  readonly liveBins: readonly { readonly name: string; readonly query: string }[];
  readonly bins: readonly { readonly name: string; readonly clips: readonly string[] }[];
  readonly projects: readonly {
    readonly name: string;
    readonly counting: string;
    readonly description: string;
    readonly stringOuts: readonly { readonly name: string; readonly clips: readonly string[] }[];
  }[];
}

interface Group {
  readonly storage: string;
  readonly folder: string;
  readonly all: Partial<Clip>;
  readonly clips: readonly Partial<Clip>[];
}

/** Reads the demo's script. What a group says of all its clips is put into each. */
export function readScript(path: string): DemoScript {
  const { groups, ...rest } = parse(readFileSync(path, 'utf8')) as Omit<DemoScript, 'clips'> & {
    groups: readonly Group[];
  };
  const clips = groups.flatMap(({ storage, folder, all, clips: own }) =>
    own.map((clip) => ({ ...all, ...clip, carries: { ...all.carries, ...clip.carries }, storage, folder }) as Clip),
  );
  return { ...rest, clips };
}
