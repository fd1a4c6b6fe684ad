import type { AccessView } from '../../../api/people.ts';

/** A line of the access log as a sentence. */
export function accessText({ what, person, by, details }: AccessView): string {
  const who = person ?? 'Somebody with an unknown name';
  switch (what) {
    case 'signed-in':
      return details ? `${who} signed in with ${details}` : `${who} signed in`;
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
    case 'factor-set':
      return `${who} set up a second factor`;
    case 'factor-ended':
      return by ? `${by} removed the second factor of ${who}` : `${who} turned off the second factor`;
    case 'code-refused':
      return `${who} was refused: wrong code`;
    case 'recovery-used':
      return `${who} used a recovery code, ${details} left`;
    case 'recovery-codes':
      return `${who} made new recovery codes`;
    case 'provider-added':
      return `${who} was added by ${details}`;
    case 'provider-connected':
      return `${who} connected an account at ${details}`;
    case 'provider-disconnected':
      return `${who} disconnected the account at ${details}`;
    case 'provider-refused':
      return `${person ?? 'Somebody'} was refused: ${details}`;
    case 'handed-on':
      return `${by} handed the open proposals of ${who} to ${details}`;
    case 'token-made':
      return `${who} made the token “${details}”`;
    case 'token-ended':
      return `${who} ended the token “${details}”`;
    case 'token-refused':
      return 'A program came with a token that doesn’t work';
    case 'role':
      // Nobody gives themselves a role: their groups do.
      return `${by === person ? 'The provider’s groups' : by} changed the role of ${who} from ${details}`;
    case 'folders':
      return details
        ? `${by} narrowed the rights of ${who} to ${details}`
        : `${by} gave ${who} rights on the whole site`;
    case 'ended':
      return `${by} ended the access of ${who}`;
    case 'returned':
      return `${by} brought ${who} back`;
    default:
      return `${who}: ${what}`;
  }
}
