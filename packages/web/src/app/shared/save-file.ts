/** Has the browser save a text as a file. */
export function saveFile({
  name,
  text,
  type,
}: {
  readonly name: string;
  readonly text: string;
  readonly type: string;
}): void {
  const address = URL.createObjectURL(new Blob([text], { type }));
  Object.assign(document.createElement('a'), { href: address, download: name }).click();
  URL.revokeObjectURL(address);
}
