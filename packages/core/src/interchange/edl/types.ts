/** What is wrong with a line of an edit decision list. Lines count from 1. */
export type EdlIssue = { readonly line: number } & (
  | { readonly code: 'not-an-event'; readonly text: string }
  | { readonly code: 'bad-timecode'; readonly text: string }
  | { readonly code: 'out-before-in'; readonly what: 'source' | 'record' }
  | { readonly code: 'transition-ignored'; readonly transition: string }
  | { readonly code: 'no-events' }
);

export function wordEdlIssue(issue: EdlIssue): string {
  switch (issue.code) {
    case 'not-an-event':
      return `Line ${issue.line} is neither an event nor a comment: “${issue.text}”.`;
    case 'bad-timecode':
      return `Line ${issue.line}: “${issue.text}” is no timecode at this rate.`;
    case 'out-before-in':
      return `Line ${issue.line}: the ${issue.what} out is not after the in.`;
    case 'transition-ignored':
      return `Line ${issue.line}: the transition ${issue.transition} is read as a cut.`;
    case 'no-events':
      return 'The list holds no events.';
    default:
      return issue satisfies never;
  }
}

/** CMX 3600 numbers events with three digits. */
export const MAX_EVENTS = 999;
/** Reel names of CMX 3600 have at most eight characters. */
export const REEL_LENGTH = 8;
