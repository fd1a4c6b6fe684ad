import { Fault } from '../fault.ts';

/** What went wrong, as one sentence. */
export function sentenceOf(error: unknown): string {
  if (error instanceof Fault) return error.message;
  const cause = systemCause(error);
  if (cause) return cause.message;
  const { code, message } = error as NodeJS.ErrnoException;
  return `The system said: ${code ?? message}.`;
}

/** A failure of the system as a sentence for the person, who may know now that all is as before. */
export function toldFault(error: unknown): unknown {
  const cause = systemCause(error);
  return cause ? new Fault(cause.code, `${cause.message} Nothing was changed.`, cause.remedy) : error;
}

function systemCause(error: unknown): Pick<Fault, 'code' | 'message' | 'remedy'> | undefined {
  const code = (error as NodeJS.ErrnoException).code ?? '';
  if (['ENOSPC', 'EDQUOT', 'SQLITE_FULL'].includes(code))
    return {
      code: 'disk-full',
      message: 'The disk is full.',
      remedy: 'Free some space and apply the plan again.',
    };
  if (['EACCES', 'EPERM', 'EROFS'].includes(code))
    return {
      code: 'forbidden',
      message: 'A folder of the site cannot be written to.',
      remedy: 'Give the server’s user the right to write there.',
    };
  if (code.startsWith('SQLITE_READONLY') || code.startsWith('SQLITE_IOERR') || code === 'SQLITE_CANTOPEN')
    return {
      code: 'forbidden',
      message: 'The database in the data folder cannot be written to.',
      remedy: 'Give the server’s user the right to write there, and check the disk.',
    };
  return undefined;
}
