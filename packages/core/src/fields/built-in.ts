/** How a field's value is kept and compared. Numbers carry the unit named here, always as integers where the unit allows. */
export const FIELD_TYPES = [
  'text',
  'longText',
  'choice',
  'choices',
  'yesNo',
  'tags',
  'names',
  'timecode',
  'url',
  'position',
  'durationMs',
  'bytes',
  'dateMs',
  'number',
  'timecodeLabel',
] as const;
export type FieldType = (typeof FIELD_TYPES)[number];
/** Those that are kept as numbers; all others are words. */
export const NUMERIC_TYPES = [
  'durationMs',
  'bytes',
  'dateMs',
  'number',
  'timecodeLabel',
] as const satisfies readonly FieldType[];
export type NumericType = (typeof NUMERIC_TYPES)[number];
export const isNumericType = (type: FieldType): type is NumericType =>
  (NUMERIC_TYPES as readonly FieldType[]).includes(type);
/** Of those an asset can say several things at once. */
export const saysSeveral = (type: FieldType): boolean => type === 'tags' || type === 'names' || type === 'choices';

export const KINDS = ['video', 'audio', 'still', 'sequence', 'document', 'unreadable'] as const;
export type Kind = (typeof KINDS)[number];

/** The camera report's verdict on a take. */
export const VERDICTS = ['circled', 'hold', 'ng'] as const;
export type Verdict = (typeof VERDICTS)[number];

/** Where an original stands: `offline` means its storage is not mounted, `missing` that the storage is there and the file is not. */
export const FILE_STATES = ['online', 'offline', 'missing', 'changed'] as const;
export type FileState = (typeof FILE_STATES)[number];

/** In the order in which screens show them; the last three hold what the file says of itself. */
export const FIELD_GROUPS = ['logged', 'slate', 'shot', 'who', 'rights', 'picture', 'sound', 'file'] as const;
export type FieldGroup = (typeof FIELD_GROUPS)[number];
export const GROUP_LABELS: Readonly<Record<FieldGroup, string>> = {
  logged: 'Logged',
  slate: 'Slate',
  shot: 'Shot',
  who: 'People and place',
  rights: 'Rights and source',
  picture: 'Picture',
  sound: 'Sound',
  file: 'File',
};

/** How large what matters is in the frame; common practice, no source. */
export const SHOT_SIZES = [
  'extreme wide',
  'wide',
  'medium wide',
  'medium',
  'medium close-up',
  'close-up',
  'extreme close-up',
] as const;
/** Where the camera looks from; common practice, no source. */
export const ANGLES = ['eye level', 'low', 'high', 'overhead', 'tilted', 'over the shoulder', 'point of view'] as const;
export const PARTS = ['whole', 'subclip'] as const;
export const SETTINGS = ['interior', 'exterior'] as const;
export const LIGHTS = ['dawn', 'day', 'dusk', 'night'] as const;

export const YES_NO = ['yes', 'no'] as const;

export interface Field {
  readonly id: string;
  readonly label: string;
  readonly type: FieldType;
  /** One of the groups above, or a title that the shop gave to one of its own. */
  readonly group: string;
  /** Other names under which the search language knows the field. */
  readonly aliases?: readonly string[];
  /** Plain words of a search look into it. */
  readonly plain?: true;
  /** A person may change it. */
  readonly editable?: true;
  readonly choices?: readonly string[];
  /** The smallest and the largest number that it takes. */
  readonly range?: readonly [least: number, most: number];
  /** Of a number, such as m or °C. */
  readonly unit?: string;
  /** A number with up to three decimals; without it a whole one. */
  readonly decimals?: true;
  /** Different for everybody, or between two assets: lists are neither ordered nor cut into groups by it. */
  readonly unordered?: true;
  /** Asked for, counted and grouped by, and said by nothing that lists show. */
  readonly asked?: true;
  /** No longer offered. What was said in it is kept and found. */
  readonly retired?: true;
  readonly help: string;
  /** What carries the same thing in open metadata standards: of EBUCore (EBU Tech 3293) the property of its RDF ontology. */
  readonly standard?: {
    readonly dublinCore?: string;
    readonly xmp?: string;
    readonly ixml?: string;
    readonly ebuCore?: string;
  };
}

/** Every field, in the order in which screens show them. Adding one here makes it searchable, sortable and documented. */
export const FIELDS = [
  {
    id: 'title',
    label: 'Title',
    type: 'text',
    group: 'logged',
    plain: true,
    editable: true,
    help: 'What the clip is called by people.',
    standard: { dublinCore: 'title', xmp: 'dc:title', ebuCore: 'title' },
  },
  {
    id: 'description',
    label: 'Description',
    type: 'longText',
    group: 'logged',
    plain: true,
    editable: true,
    help: 'What is seen and heard.',
    standard: { dublinCore: 'description', xmp: 'dc:description', ebuCore: 'description' },
  },
  {
    id: 'tag',
    label: 'Tags',
    type: 'tags',
    group: 'logged',
    aliases: ['tags'],
    plain: true,
    editable: true,
    help: 'Controlled words.',
    standard: { dublinCore: 'subject', xmp: 'dc:subject', ebuCore: 'hasKeyword' },
  },
  {
    id: 'verdict',
    label: 'Verdict',
    type: 'choice',
    group: 'logged',
    choices: VERDICTS,
    editable: true,
    help: 'Circled, hold or NG, as on the camera report.',
    standard: { ixml: 'CIRCLED' },
  },
  {
    id: 'marking',
    label: 'Marked',
    type: 'choice',
    group: 'logged',
    aliases: ['marked'],
    // Those that the library has; the registry is told of them.
    choices: [],
    editable: true,
    help: 'The marking that was put on by hand. Without one the first marking counts whose rule fits.',
  },
  {
    id: 'rating',
    label: 'Rating',
    type: 'number',
    group: 'logged',
    editable: true,
    range: [1, 5],
    help: 'How good it is, from 1 to 5.',
    standard: { xmp: 'xmp:Rating', ebuCore: 'ratingValue' },
  },
  {
    id: 'notes',
    label: 'Notes',
    type: 'longText',
    group: 'logged',
    aliases: ['note'],
    plain: true,
    editable: true,
    help: 'Remarks for colleagues.',
    standard: { ixml: 'NOTE' },
  },
  {
    id: 'marker',
    label: 'Markers',
    type: 'names',
    group: 'logged',
    aliases: ['markers'],
    plain: true,
    help: 'What is said in its markers.',
  },
  {
    id: 'part',
    label: 'Whole or subclip',
    type: 'choice',
    group: 'logged',
    choices: PARTS,
    help: 'A whole asset, or a subclip of one.',
  },
  {
    id: 'name',
    label: 'Name',
    type: 'text',
    group: 'file',
    plain: true,
    help: 'The name of the file.',
    standard: { ebuCore: 'resourceFilename' },
  },
  {
    id: 'kind',
    label: 'Kind',
    type: 'choice',
    group: 'file',
    choices: KINDS,
    help: 'Video, audio, still, image sequence, document, or unreadable.',
    standard: { dublinCore: 'type' },
  },
  {
    id: 'reel',
    label: 'Reel',
    type: 'text',
    group: 'slate',
    plain: true,
    editable: true,
    help: 'The reel, tape or card the clip was recorded on.',
    standard: { ixml: 'TAPE', xmp: 'xmpDM:tapeName' },
  },
  {
    id: 'scene',
    label: 'Scene',
    type: 'text',
    group: 'slate',
    plain: true,
    editable: true,
    help: 'Scene, as slated.',
    standard: { ixml: 'SCENE', xmp: 'xmpDM:scene' },
  },
  {
    id: 'take',
    label: 'Take',
    type: 'text',
    group: 'slate',
    editable: true,
    help: 'Take, as slated.',
    standard: { ixml: 'TAKE', xmp: 'xmpDM:takeNumber' },
  },
  {
    id: 'slate',
    label: 'Slate',
    type: 'text',
    group: 'slate',
    plain: true,
    editable: true,
    help: 'The number on the slate, where it is not scene and take.',
  },
  {
    id: 'camera',
    label: 'Camera',
    type: 'text',
    group: 'slate',
    plain: true,
    editable: true,
    help: 'Which camera: its letter or its name.',
    standard: { xmp: 'xmpDM:cameraLabel' },
  },
  {
    id: 'lens',
    label: 'Lens',
    type: 'text',
    group: 'slate',
    editable: true,
    help: 'The lens it was shot with.',
    standard: { xmp: 'aux:Lens' },
  },
  {
    id: 'soundroll',
    label: 'Sound roll',
    type: 'text',
    group: 'slate',
    editable: true,
    help: 'The roll or card that its sound was recorded on.',
  },
  {
    id: 'barcode',
    label: 'Barcode',
    type: 'text',
    group: 'slate',
    plain: true,
    editable: true,
    help: 'On the label of the tape, card or disk that it came from.',
  },
  {
    id: 'framing',
    label: 'Shot size',
    type: 'choice',
    group: 'shot',
    aliases: ['shotsize'],
    choices: SHOT_SIZES,
    editable: true,
    help: 'How large what matters is in the frame.',
    standard: { xmp: 'xmpDM:shotSize' },
  },
  {
    id: 'angle',
    label: 'Angle',
    type: 'choice',
    group: 'shot',
    choices: ANGLES,
    editable: true,
    help: 'Where the camera looks from.',
    standard: { xmp: 'xmpDM:cameraAngle' },
  },
  {
    id: 'setting',
    label: 'Interior or exterior',
    type: 'choice',
    group: 'shot',
    choices: SETTINGS,
    editable: true,
    help: 'Indoors or out.',
  },
  {
    id: 'light',
    label: 'Day or night',
    type: 'choice',
    group: 'shot',
    choices: LIGHTS,
    editable: true,
    help: 'The light it plays in.',
  },
  {
    id: 'people',
    label: 'People',
    type: 'names',
    group: 'who',
    aliases: ['person', 'who'],
    plain: true,
    editable: true,
    help: 'Who is seen or heard.',
    standard: { xmp: 'Iptc4xmpExt:PersonInImage', ebuCore: 'personName' },
  },
  {
    id: 'place',
    label: 'Place',
    type: 'text',
    group: 'who',
    plain: true,
    editable: true,
    help: 'Where it was recorded.',
    standard: { dublinCore: 'coverage', xmp: 'Iptc4xmpCore:Location', ebuCore: 'locationName' },
  },
  {
    id: 'position',
    label: 'Position',
    type: 'position',
    group: 'who',
    aliases: ['near'],
    editable: true,
    help: 'Where on Earth it was recorded, in degrees: 50.4120, -3.5180. Found as near:50.4120,-3.5180,2km or near:Ottermouth,20km.',
    // Of exif a pair of properties: GPSLatitude and GPSLongitude.
    standard: { dublinCore: 'coverage', xmp: 'exif:GPS', ebuCore: 'hasShootingLocation' },
  },
  {
    id: 'rights',
    label: 'Rights',
    type: 'longText',
    group: 'rights',
    editable: true,
    help: 'Whose it is, and what may be done with it.',
    standard: { dublinCore: 'rights', xmp: 'dc:rights', ebuCore: 'rightsExpression' },
  },
  {
    id: 'source',
    label: 'Source',
    type: 'text',
    group: 'rights',
    plain: true,
    editable: true,
    help: 'Where it came from, such as an archive.',
    standard: { dublinCore: 'source', xmp: 'dc:source', ebuCore: 'hasSource' },
  },
  {
    id: 'language',
    label: 'Language',
    type: 'text',
    group: 'rights',
    editable: true,
    help: 'The language that is spoken.',
    standard: { dublinCore: 'language', xmp: 'dc:language', ebuCore: 'hasLanguage' },
  },
  {
    id: 'start',
    label: 'Start',
    type: 'timecodeLabel',
    group: 'picture',
    aliases: ['tc'],
    help: 'The timecode of its first frame, whatever the rate.',
  },
  {
    id: 'duration',
    label: 'Duration',
    type: 'durationMs',
    group: 'picture',
    help: 'Length in time.',
    standard: { ebuCore: 'duration', xmp: 'xmpDM:duration' },
  },
  {
    id: 'rate',
    label: 'Rate',
    type: 'choice',
    group: 'picture',
    aliases: ['fps'],
    help: 'Frames per second, with df for drop-frame.',
    standard: { xmp: 'xmpDM:videoFrameRate', ebuCore: 'frameRate' },
  },
  {
    id: 'width',
    label: 'Width',
    type: 'number',
    group: 'picture',
    help: 'Pixels across.',
    standard: { ebuCore: 'frameWidth' },
  },
  {
    id: 'height',
    label: 'Height',
    type: 'number',
    group: 'picture',
    help: 'Pixels down.',
    standard: { ebuCore: 'frameHeight' },
  },
  {
    id: 'codec',
    label: 'Codec',
    type: 'choice',
    group: 'picture',
    help: 'How picture or sound is encoded.',
    standard: { dublinCore: 'format', ebuCore: 'hasCodec' },
  },
  {
    id: 'channels',
    label: 'Channels',
    type: 'number',
    group: 'sound',
    help: 'Channels of sound.',
    standard: { ebuCore: 'audioChannelNumber' },
  },
  {
    id: 'stream',
    label: 'Sound streams',
    type: 'names',
    group: 'sound',
    aliases: ['streams'],
    help: 'The channels of each of its streams of sound. Any stream of eight is found as stream:8.',
  },
  {
    id: 'soundcodec',
    label: 'Sound codec',
    type: 'choice',
    group: 'sound',
    help: 'How its sound is encoded, also beside a picture.',
  },
  {
    id: 'shot',
    label: 'Shot on',
    type: 'dateMs',
    group: 'slate',
    aliases: ['date', 'created'],
    help: 'When it was recorded, as the file says.',
    standard: { dublinCore: 'created', xmp: 'xmp:CreateDate', ebuCore: 'dateCreated' },
  },
  {
    id: 'flag',
    label: 'Flag',
    type: 'choice',
    group: 'logged',
    choices: ['mine'],
    unordered: true,
    help: 'Flagged by yourself, for going through what there is; nobody else sees it. Found as flag:mine.',
  },
  {
    id: 'bin',
    label: 'Bins',
    type: 'tags',
    group: 'logged',
    aliases: ['in'],
    help: 'The bins it has been put into, by their paths.',
  },
  { id: 'storage', label: 'Storage', type: 'choice', group: 'file', help: 'The storage that holds the original.' },
  { id: 'path', label: 'Path', type: 'text', group: 'file', help: 'The path of the original within its storage.' },
  {
    id: 'state',
    label: 'State',
    type: 'choice',
    group: 'file',
    aliases: ['is'],
    choices: FILE_STATES,
    help: 'Online, offline, missing or changed.',
  },
  {
    id: 'size',
    label: 'Size',
    type: 'bytes',
    group: 'file',
    help: 'Size of the original.',
    standard: { ebuCore: 'resourceFileSize' },
  },
  {
    id: 'use',
    label: 'Use',
    type: 'choice',
    group: 'logged',
    choices: ['used', 'unused'],
    asked: true,
    help: 'Whether any string-out has it. Found as is:used or is:unused.',
  },
  {
    id: 'twin',
    label: 'Twin',
    type: 'choice',
    group: 'file',
    choices: ['twin'],
    asked: true,
    help: 'The library has the same file a second time, as another asset. Found as is:twin.',
  },
  {
    id: 'said',
    label: 'Said',
    type: 'longText',
    group: 'logged',
    aliases: ['spoken', 'dialogue'],
    asked: true,
    unordered: true,
    help: 'What is spoken in it, by its best transcript.',
  },
  {
    id: 'heard',
    label: 'Heard',
    type: 'longText',
    group: 'logged',
    aliases: ['sounds'],
    asked: true,
    unordered: true,
    help: 'Words that were spoken as they sound, however they are spelled; and how sure that is: sure, likely, maybe or sounds.',
  },
  {
    id: 'project',
    label: 'Projects',
    type: 'tags',
    group: 'logged',
    aliases: ['projects'],
    asked: true,
    help: 'The projects in whose string-outs it is.',
  },
  {
    id: 'by',
    label: 'Logged by',
    type: 'names',
    group: 'logged',
    asked: true,
    help: 'Who has said anything of it: fields, tags, markers, subclips or corrected transcripts.',
  },
  {
    id: 'number',
    label: 'Asset number',
    type: 'number',
    group: 'file',
    aliases: ['id'],
    help: 'Its number in this library.',
  },
  {
    id: 'like',
    label: 'Like',
    type: 'number',
    group: 'logged',
    asked: true,
    unordered: true,
    help: 'Like an asset, by its number: they share tags, people, place, scene or words of title and description, two of them at least.',
  },
  { id: 'added', label: 'Added', type: 'dateMs', group: 'file', help: 'When it was catalogued.' },
] as const satisfies readonly Field[];

export type BuiltInFieldId = (typeof FIELDS)[number]['id'];
/** A field that the shop defined. */
export type ShopFieldId = `shop_${string}`;
export type FieldId = BuiltInFieldId | ShopFieldId;
export type EditableFieldId = Extract<(typeof FIELDS)[number], { editable: true }>['id'] | ShopFieldId;
/** Fields that are set as a whole; tags are added and removed one by one. */
export type SettableFieldId = Exclude<EditableFieldId, 'tag'>;

/** What one asset says in each field; text and choices as strings, tags as a list, all else as numbers in the field's unit. */
export type FieldValue = string | number | readonly string[];
export type FieldValues = Partial<Record<FieldId, FieldValue>>;
