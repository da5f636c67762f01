import { makePiece, type Piece } from './make';
import { readScript } from './script';

/** A process that makes pieces of the demo, one after the other, as it is told. */
const [scriptPath = '', root = ''] = process.argv.slice(2);
const script = readScript(scriptPath);

process.on('message', (piece: Piece) => {
  makePiece(root, script, piece).then(
    () => process.send?.({ made: true }),
    (error: unknown) =>
      process.send?.({ made: false, message: error instanceof Error ? error.message : String(error) }),
  );
});
process.on('disconnect', () => process.exit(0));
