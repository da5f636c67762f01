import { countingOf, type Asset, type Sound } from '@larder/contract';
import { counted, durationOf, formatBytes, formatCount, formatDay, formatMoment, startOf } from '../shared/format';
import { KIND_LABELS } from '../shared/icons';

/** A line of what the file says; `mono` for figures that are compared by their digits. */
export interface Fact {
  readonly label: string;
  readonly value: string;
  readonly mono?: boolean;
}

function loudnessOf({ loudness }: Asset): string {
  if (!loudness) return '';
  const { integratedLufs, rangeLu, truePeakDb } = loudness;
  if (integratedLufs === null) return 'silent';
  const more = [rangeLu === null ? '' : `${rangeLu} LU`, truePeakDb === null ? '' : `peak ${truePeakDb} dBTP`];
  return [`${integratedLufs} LUFS`, ...more].filter(Boolean).join(', ');
}

/** The layout of the loudspeakers, or how many channels there are; several streams are no layout, whatever the first one says. */
function channelsOf({ channels, streams = [], layout }: Sound): string {
  const heard = streams.filter((each) => each > 0).length;
  if (heard > 1) return `${counted(channels, 'channel')} in ${heard} streams`;
  return layout ?? counted(channels, 'channel');
}

/** What the file says, in the order in which people ask for it. */
export function factsOf(asset: Asset): Fact[] {
  const counting = countingOf(asset);
  const { colour, sound } = asset;
  const rows: (Fact | null)[] = [
    { label: 'Name', value: asset.name },
    {
      label: 'Kind',
      value: KIND_LABELS[asset.kind].word + (asset.files > 1 ? `, ${counted(asset.files, 'file')}` : ''),
    },
    counting
      ? {
          label: 'Duration',
          value: `${durationOf(asset)} (${formatCount(asset.durationFrames ?? 0)} frames)`,
          mono: true,
        }
      : { label: 'Duration', value: durationOf(asset), mono: true },
    { label: 'Start', value: startOf(asset), mono: true },
    { label: 'Rate', value: counting ? counting.id.replace('df', ' drop-frame') : '', mono: true },
    { label: 'Shot on', value: asset.shotMs === null ? '' : formatDay(asset.shotMs) },
    { label: 'Raster', value: asset.width && asset.height ? `${asset.width} × ${asset.height}` : '', mono: true },
    { label: 'Codec', value: [asset.codec, asset.pixelFormat].filter(Boolean).join(', ') },
    {
      label: 'Colour',
      value: colour ? [colour.primaries, colour.transfer, colour.matrix, colour.range].filter(Boolean).join(', ') : '',
    },
    {
      label: 'Sound',
      value: sound ? `${channelsOf(sound)}, ${formatCount(sound.sampleRate)} Hz, ${sound.codec}` : '',
    },
    { label: 'Loudness', value: loudnessOf(asset), mono: true },
    { label: 'Alpha', value: asset.alpha ?? '' },
    {
      label: 'Gaps',
      value: asset.gaps.map(([first, last]) => (first === last ? first : `${first}–${last}`)).join(', '),
    },
    { label: 'Storage', value: asset.storage },
    { label: 'Path', value: asset.path },
    { label: 'Size', value: formatBytes(asset.bytes), mono: true },
    { label: 'Added', value: formatMoment(asset.addedMs) },
    asset.reason ? { label: 'Remark', value: asset.reason } : null,
  ];
  return rows.filter((row): row is Fact => row !== null && row.value !== '');
}
