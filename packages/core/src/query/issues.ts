import type { QueryIssue } from './tree';

/** The wording of a query's issue: what is wrong and how to mend it. */
export function wordQueryIssue(issue: QueryIssue): string {
  switch (issue.code) {
    case 'unknown-field':
      return `There is no field “${issue.name}”.${issue.nearest ? ` Did you mean “${issue.nearest}:”?` : ' To search for the text itself, put it in quotes.'}`;
    case 'missing-value':
      return `“${issue.field}” needs a value after it.`;
    case 'bad-value':
      return `“${issue.value}” is no value for ${issue.field}: write ${issue.expected}.`;
    case 'not-comparable':
      return `“${issue.field}” cannot be more or less than something: use a colon.`;
    case 'unclosed-quote':
      return 'This quote is not closed.';
    case 'unclosed-bracket':
      return 'This bracket is not closed.';
    case 'stray-bracket':
      return 'This bracket closes nothing.';
    case 'missing-term':
      return `Something to look for is missing after “${issue.after}”.`;
    case 'too-deep':
      return 'Brackets are nested too deeply.';
    default:
      return issue satisfies never;
  }
}
