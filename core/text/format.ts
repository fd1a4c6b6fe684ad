/** '1,234 items', '1 item'. @param many the plural, where it is not made by an s */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${number.toLocaleString('en')} ${number === 1 ? one : many}`;
}

/** 1234567 -> '1.2 MB' (decimal units, as file managers of the web count). */
export function weight(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  for (const [unit, size] of [
    ['GB', 1e9],
    ['MB', 1e6],
    ['kB', 1e3],
  ] as const) {
    if (bytes >= size) return `${(bytes / size).toFixed(bytes / size < 10 ? 1 : 0)} ${unit}`;
  }
  return '';
}
