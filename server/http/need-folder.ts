import { targetFault } from '../../core/address/target.ts';
import { Fault } from '../fault.ts';

/** A folder that files may be brought into; '': the site's root. @throws Fault 'bad-request' */
export function needFolder(folder: string): void {
  const fault = folder === '' ? undefined : targetFault(folder);
  if (fault) throw new Fault('bad-request', fault, 'Choose another folder.');
}
