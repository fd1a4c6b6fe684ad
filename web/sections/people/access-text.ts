import type { AccessView } from '../../../api/people.ts';

/** A line of the access log as a sentence. */
export function accessText({ what, person, by, details }: AccessView): string {
  const who = person ?? 'Somebody with an unknown name';
  switch (what) {
    case 'signed-in':
      return `${who} signed in`;
    case 'signed-out':
      return `${who} signed out`;
    case 'refused':
      return `${who} was refused: wrong name or password`;
    case 'slowed':
      return `${who} was locked out after too many wrong passwords`;
    case 'password-set':
      return `${who} changed the password`;
    case 'session-ended':
      return `${who} ended a session`;
    case 'invited':
      return `${by ?? 'The server'} made a link for ${who}`;
    case 'invitation-used':
      return `${who} set a password by link`;
    case 'invitation-refused':
      return 'Somebody opened a link that works no more';
    case 'handed-on':
      return `${by} handed the open proposals of ${who} to ${details}`;
    case 'token-made':
      return `${who} made the token “${details}”`;
    case 'token-ended':
      return `${who} ended the token “${details}”`;
    case 'token-refused':
      return 'A program came with a token that doesn’t work';
    case 'role':
      return `${by} changed the role of ${who} from ${details}`;
    case 'ended':
      return `${by} ended the access of ${who}`;
    case 'returned':
      return `${by} brought ${who} back`;
    default:
      return `${who}: ${what}`;
  }
}
