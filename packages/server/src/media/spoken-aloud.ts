import { speakable, type Phones } from '@larder/core/dialogue';
import { run } from './run';

const TIMEOUT_MS = 20_000;
/** As slow as one who says a name for others to write down. */
const WORDS_A_MINUTE = '130';

/** Some sounds as a WAV file, spoken by a synthesiser. */
export const spokenAloud = (sounds: Phones): Promise<Buffer> =>
  run('espeak-ng', ['-v', 'en-us', '-s', WORDS_A_MINUTE, '--stdout', speakable(sounds)], { timeoutMs: TIMEOUT_MS });
