/** '1,234 items', '1 item'. @param many the plural, where it is not made by an s */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${number.toLocaleString('en')} ${number === 1 ? one : many}`;
}
