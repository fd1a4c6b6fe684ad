import { randomUUID } from 'node:crypto';
import { calledIn } from '../../core/people/mentions.ts';
import { may } from '../../core/people/rights.ts';
import { emptyPlan, type SettingValue } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Comment } from '../db/comments.ts';
import type { Proposal } from './proposal.ts';

/** Plans to say something about an item. */
export function proposeComment(
  site: Pick<Site, 'items' | 'people' | 'now'>,
  itemId: number,
  text: string,
  personId: number,
): Proposal {
  const item = site.items.need(itemId);
  const people = site.people.all();
  const names = people.map((one) => one.name);
  const person = people.find((one) => one.id === personId)!.name;
  const comment: Comment = { person, at: site.now(), text, calls: calledIn(text, names) };
  const plan = emptyPlan('describe', `Comment on “${item.name}”`);
  plan.settings = [
    {
      namespace: 'comment',
      key: `${itemId} ${randomUUID()}`,
      before: null,
      after: comment as unknown as SettingValue,
    },
  ];
  return { plan };
}

/** Plans to take a comment away. @throws Fault when it is somebody else's */
export function proposeUncomment(
  site: Pick<Site, 'items' | 'people' | 'settings'>,
  itemId: number,
  key: string,
  personId: number,
): Proposal {
  const item = site.items.need(itemId);
  const before = site.settings.get('comment', key);
  if (before === null || !key.startsWith(`${itemId} `))
    throw new Fault('not-found', 'This comment is no longer there.', 'Reload the record.');
  const person = site.people.get(personId)!;
  const author = (before as unknown as Comment).person;
  if (author !== person.name && !may(person.role, 'people'))
    throw new Fault('forbidden', `Only ${author} can delete this comment.`, 'Answer it instead.');
  const plan = emptyPlan('describe', `Delete a comment on “${item.name}”`);
  plan.settings = [{ namespace: 'comment', key, before, after: null }];
  return { plan };
}
