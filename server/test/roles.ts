import { ROLES, type Role } from '../../core/people/rights.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { ImageBank } from '../services/image-bank.ts';
import { serve, type Served } from './served.ts';
import { openSite } from './site.ts';

export const GOOD_PASSWORD = 'peat tea at nine';
/** Who stands for each role. */
export const NAMES: Record<Role, string> = {
  reader: 'Piet',
  contributor: 'Ines',
  editor: 'Ben',
  steward: 'Ottilie',
};

export interface ServedRoles {
  site: OpenedSite;
  served: Served;
  /** The session of each, as the browser sends it. */
  cookies: Record<Role, string>;
  /** A request of somebody who is signed in. */
  askAs(role: Role, method: string, path: string, body?: unknown): Promise<Response>;
  /** The same, below /api. */
  as(role: Role, method: string, path: string, body?: unknown): Promise<Response>;
}

/** What a refusal says. */
export type Said = { code: string; message: string; remedy: string };
export const json = async <Answer>(answer: Promise<Response>): Promise<Answer> =>
  (await (await answer).json()) as Answer;

export const cookieOf = (answer: Response): string => answer.headers.get('set-cookie')!.split(';')[0]!;

/** A site as it is served outside the demo, with somebody of each role signed in. */
export async function serveRoles(root: string, parts: { imageBank?: ImageBank } = {}): Promise<ServedRoles> {
  const site = await openSite(root, { people: ROLES.map((role) => ({ name: NAMES[role], role })) });
  const served = await serve(site, { demo: false, ...parts });
  const from = { address: '', agent: '' };
  const steward = site.people.byName(NAMES.steward)!;
  const cookies = {} as Record<Role, string>;
  for (const role of ROLES) {
    const { id } = site.people.byName(NAMES[role])!;
    const { token } = site.access.linkFor(id, steward, from);
    await site.access.accept({ token, name: NAMES[role], password: GOOD_PASSWORD }, from);
    const answer = await served.ask('POST', '/api/sign-in', { name: NAMES[role], password: GOOD_PASSWORD });
    cookies[role] = cookieOf(answer);
  }
  const askAs: ServedRoles['askAs'] = (role, method, path, body) =>
    served.ask(method, path, body, { Cookie: cookies[role] });
  return {
    site,
    served,
    cookies,
    askAs,
    as: (role, method, path, body) => askAs(role, method, `/api${path}`, body),
  };
}
