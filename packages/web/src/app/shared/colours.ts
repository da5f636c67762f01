/** A colour of the theme that is on, for what cannot be styled by tokens. */
export const tokenColour = (token: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(token).trim();

/** What charts say under the pointer, in the theme that is on. */
export const tooltipLooks = () => ({
  backgroundColor: tokenColour('--nl-card'),
  borderColor: tokenColour('--nl-line'),
  padding: [4, 8],
  textStyle: { color: tokenColour('--nl-ink'), fontFamily: 'Source Sans 3 Variable', fontSize: 13 },
});
