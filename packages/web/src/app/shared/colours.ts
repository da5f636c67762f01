/** A colour of the theme that is on, for what cannot be styled by tokens. */
export const tokenColour = (token: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(token).trim();
