/** The demo library: its script, and making and disturbing its files. */
export { readStrip, STRIP_BLOCKS, stripBits, stripHeight } from './draw/frame-strip';
export { makePiece, pathOf, piecesOf, type Piece } from './make';
export { copyStorage, disturbShelves, makeDemoMedia, plugIn, unplug } from './media';
export { readScript, type Clip, type DemoScript, type LogEntry, type Sound, type Taped } from './script';
