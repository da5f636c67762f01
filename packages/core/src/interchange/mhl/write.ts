import { CHAIN_NAMESPACE, LIST_NAMESPACE, type ChainLink, type HashEntry, type HashList } from './types';

/** Characters that XML 1.0 cannot hold at all are left out; a name has them only by mishap. */
const text = (value: string): string =>
  value
    .replace(/[^\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]/gu, '')
    .replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`)
    .replace(/[\t\n\r]/g, (sign) => `&#${sign.charCodeAt(0)};`);
const date = (ms: number): string => new Date(ms).toISOString();

const entry = ({ path, bytes, modifiedMs, hashes }: HashEntry): string =>
  [
    '    <hash>',
    `      <path size="${bytes}" lastmodificationdate="${date(modifiedMs)}">${text(path)}</path>`,
    ...hashes.map(
      ({ element, value, action, atMs }) =>
        `      <${element} action="${action}" hashdate="${date(atMs)}">${text(value)}</${element}>`,
    ),
    '    </hash>',
  ].join('\n');

/** Writes one generation. Directory hashes, which the format leaves free, are not written. */
export function writeHashList({ createdMs, hostName, tool, process, ignored, entries }: HashList): string {
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<hashlist version="2.0" xmlns="${LIST_NAMESPACE}">`,
    '  <creatorinfo>',
    `    <creationdate>${date(createdMs)}</creationdate>`,
    `    <hostname>${text(hostName)}</hostname>`,
    `    <tool version="${text(tool.version)}">${text(tool.name)}</tool>`,
    '  </creatorinfo>',
    '  <processinfo>',
    `    <process>${process}</process>`,
    '    <ignore>',
    ...ignored.map((pattern) => `      <pattern>${text(pattern)}</pattern>`),
    '    </ignore>',
    '  </processinfo>',
    '  <hashes>',
    ...entries.map(entry),
    '  </hashes>',
    '</hashlist>',
    '',
  ].join('\n');
}

export const writeChain = (links: readonly ChainLink[]): string =>
  [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<ascmhldirectory xmlns="${CHAIN_NAMESPACE}">`,
    ...links.map(
      ({ generation, path, c4 }) =>
        `  <hashlist sequencenr="${generation}">\n    <path>${text(path)}</path>\n    <c4>${text(c4)}</c4>\n  </hashlist>`,
    ),
    '</ascmhldirectory>',
    '',
  ].join('\n');

/** `0001_A001_2026-11-25_161500Z.mhl`: generation, folder, and the time in UTC. */
export function listFileName(generation: number, folderName: string, createdMs: number): string {
  const [day = '', clock = ''] = new Date(createdMs).toISOString().split('T');
  return `${String(generation).padStart(4, '0')}_${folderName}_${day}_${clock.slice(0, 8).replace(/:/g, '')}Z.mhl`;
}
