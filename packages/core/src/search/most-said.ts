/** Names of places that a spot on the map is called by. */
const PLACES_NAMED = 3;

/** The texts that are said most, the most frequent first. */
export function mostSaid(texts: readonly (string | undefined)[]): string[] {
  const counts = new Map<string, number>();
  for (const text of texts) if (text !== undefined) counts.set(text, (counts.get(text) ?? 0) + 1);
  return [...counts]
    .sort((a, b) => b[1] - a[1])
    .slice(0, PLACES_NAMED)
    .map(([text]) => text);
}
