/** Hours, minutes, seconds and thousandths. */
export function clock(ms: number, point: '.' | ','): string {
  const two = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(ms / 1000);
  const [hours, minutes] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60];
  return `${two(hours)}:${two(minutes)}:${two(seconds % 60)}${point}${String(ms % 1000).padStart(3, '0')}`;
}
