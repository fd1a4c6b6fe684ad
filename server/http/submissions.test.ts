import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { ItemDetail } from '../../api/items.ts';
import type { EntryView, PlanView } from '../../api/plans.ts';
import type { SiteView } from '../../api/site.ts';
import type { SubmissionList, SubmittedPlan } from '../../api/submissions.ts';
import { KINDS_OF_PLAN } from '../../core/plan/kinds/index.ts';
import { grantOf, ROLES, type Role } from '../../core/people/rights.ts';
import { A_REQUEST } from '../test/plan-requests.ts';
import { changeMember } from '../test/members.ts';
import { json, NAMES, serveRoles, type ServedRoles, type Said } from '../test/roles.ts';
import { closeSites, picture, smallSite, treeOf } from '../test/site.ts';

/** What one person proposes and another approves. */
let roles: ServedRoles;
let root: string;
let before: Record<string, string>;
beforeAll(async () => {
  root = await smallSite();
  roles = await serveRoles(root);
}, 60_000);
beforeEach(async () => {
  before = await treeOf(root);
});
afterAll(async () => {
  roles.served.close();
  await closeSites();
});

const as: ServedRoles['as'] = (...asked) => roles.as(...asked);
const idOf = (path: string) => roles.site.items.atPath(path)!.id;
const rename = (path: string, name: string) => ({ kind: 'names', names: [{ itemId: idOf(path), name }] });
const lists = (role: Role) => json<SubmissionList>(as(role, 'GET', '/submissions'));
const personOf = (role: Role) => roles.site.people.byName(NAMES[role])!;
const giveRole = (to: Role, role: Role) => changeMember(roles.site, personOf(to).id, { role });

async function submit(role: Role, request: object, note = ''): Promise<number> {
  const plan = await json<PlanView>(as(role, 'POST', '/plans', request));
  const answer = await as(role, 'POST', `/plans/${plan.id}/submit`, { note });
  expect(answer.status).toBe(200);
  return ((await answer.json()) as { submissionId: number }).submissionId;
}
const look = (role: Role, id: number) => as(role, 'POST', `/submissions/${id}/plan`, {});

test('who may neither do nor propose it is refused; as the table says, for every kind and role that is left', async () => {
  for (const role of ['reader', 'editor'] as const)
    for (const { name, right } of Object.values(KINDS_OF_PLAN)) {
      const answer = await as(role, 'POST', '/plans', A_REQUEST[name]);
      if (grantOf(role, right) === 'no') expect([name, answer.status]).toEqual([name, 403]);
      else expect([200, 400, 404, 409], name).toContain(answer.status);
    }
});

describe('a proposal', () => {
  test('changes nothing until another applies it; then it is its author’s, approved by the other', async () => {
    const asked = rename('img/c.png', 'cliff.png');
    const plan = await json<PlanView>(as('contributor', 'POST', '/plans', asked));
    expect([plan.clashes, plan.approval]).toEqual([[], 'an editor or a steward']);
    expect((await as('contributor', 'POST', `/plans/${plan.id}/apply`, {})).status).toBe(403);
    const id = await submit('contributor', asked, 'It shows a cliff.');
    expect(await treeOf(root)).toEqual(before);

    for (const role of ROLES) {
      const { counts } = await json<SiteView>(as(role, 'GET', '/site'));
      const approves = role === 'editor' || role === 'steward';
      expect([role, counts.toApprove]).toEqual([role, Number(approves)]);
      expect((await lists(role)).waiting.map((one) => one.id)).toEqual(approves ? [id] : []);
      const looked = await look(role, id);
      expect([role, looked.status]).toEqual([role, role === 'reader' ? 403 : 200]);
    }
    const { plan: now, submission, moved } = await json<SubmittedPlan>(look('editor', id));
    expect([submission.person, submission.note, moved]).toEqual(['Ines', 'It shows a cliff.', []]);
    expect(now.moves).toEqual([{ from: 'img/c.png', to: 'img/cliff.png' }]);
    expect((await as('editor', 'POST', `/plans/${now.id}/apply`, {})).status).toBe(200);
    expect(roles.site.items.atPath('img/cliff.png')).toBeDefined();
    const [entry] = await json<EntryView[]>(as('reader', 'GET', '/ledger'));
    expect([entry!.person, entry!.approver, entry!.note, entry!.via]).toEqual([
      'Ines',
      'Ben',
      'It shows a cliff.',
      'window',
    ]);
    const { mine } = await lists('contributor');
    expect(mine.map((one) => [one.state, one.answeredBy, one.entryId])).toEqual([
      ['applied', 'Ben', entry!.id],
    ]);
    expect((await look('editor', id)).status).toBe(409);
  });

  test('stands on the record of its items while it waits, for its author and for who may approve it', async () => {
    const id = await submit('contributor', rename('img/b.png', 'bay.png'));
    const onRecord = async (role: Role, path: string) =>
      (await json<ItemDetail>(as(role, 'GET', `/items/${idOf(path)}`))).proposals.map((one) => one.id);
    for (const role of ROLES)
      expect([role, await onRecord(role, 'img/b.png')]).toEqual([role, role === 'reader' ? [] : [id]]);
    expect(await onRecord('editor', 'img/unused.png')).toEqual([]);
    expect((await as('contributor', 'POST', `/submissions/${id}/withdraw`, {})).status).toBe(200);
    expect(await onRecord('editor', 'img/b.png')).toEqual([]);
  });

  test('is sent back with a reason, and can be withdrawn', async () => {
    const id = await submit('contributor', rename('img/b.png', 'bay.png'));
    expect((await as('editor', 'POST', `/submissions/${id}/return`, { answer: ' ' })).status).toBe(400);
    expect((await as('contributor', 'POST', `/submissions/${id}/return`, { answer: 'x' })).status).toBe(403);
    const reason = { answer: 'It is no bay.' };
    expect((await as('editor', 'POST', `/submissions/${id}/return`, reason)).status).toBe(200);
    expect((await as('editor', 'POST', `/submissions/${id}/return`, reason)).status).toBe(409);
    const { counts } = await json<SiteView>(as('contributor', 'GET', '/site'));
    expect(counts.sentBack).toBe(1);
    const { mine } = await lists('contributor');
    expect([mine[0]!.state, mine[0]!.answer, mine[0]!.answeredBy]).toEqual([
      'returned',
      'It is no bay.',
      'Ben',
    ]);
    expect((await as('editor', 'POST', `/submissions/${id}/withdraw`, {})).status).toBe(403);
    expect((await as('contributor', 'POST', `/submissions/${id}/withdraw`, {})).status).toBe(200);
    expect((await lists('contributor')).mine.some((one) => one.id === id)).toBe(false);
    expect(await treeOf(root)).toEqual(before);
  });

  test('is never approved by who made it, whatever they may', async () => {
    const id = await submit('editor', rename('img/b.png', 'bay.png'));
    expect((await lists('editor')).waiting).toEqual([]);
    const { plan } = await json<SubmittedPlan>(look('editor', id));
    const answer = await as('editor', 'POST', `/plans/${plan.id}/apply`, {});
    expect([answer.status, ((await answer.json()) as Said).message]).toEqual([
      403,
      'You can’t approve your own proposal.',
    ]);
    expect(await treeOf(root)).toEqual(before);
    await as('editor', 'POST', `/submissions/${id}/withdraw`, {});
  });

  test('that is stale says what moved on, and what stands in its way now', async () => {
    const id = await submit('contributor', {
      kind: 'names',
      names: [
        { itemId: idOf('img/b.png'), name: 'one.png' },
        { itemId: idOf('img/mentioned.png'), name: 'two.png' },
      ],
    });
    const words = { kind: 'records', itemIds: [idOf('img/b.png')], set: { title: 'B' } };
    const plan = await json<PlanView>(as('editor', 'POST', '/plans', words));
    await as('editor', 'POST', `/plans/${plan.id}/apply`, {});
    await writeFile(join(root, 'sub/page.html'), '<title>Sub</title><img src="../img/b.png">');
    const first = await json<SubmittedPlan>(look('steward', id));
    // What it would change is what it would change now: the page that shows it since is among it.
    expect(first.plan.pages.map((one) => one.page)).toContain('sub/page.html');
    await writeFile(join(root, 'img/two.png'), await picture(77));
    const looked = await json<SubmittedPlan>(look('steward', id));
    expect(looked.moved).toEqual(['“b.png” was changed by Ben since.']);
    expect(looked.plan.clashes.map((one) => one.path)).toEqual(['img/two.png']);
    expect((await as('steward', 'POST', `/plans/${looked.plan.id}/apply`, {})).status).toBe(409);
    await as('contributor', 'POST', `/submissions/${id}/withdraw`, {});
  });

  test('is applied once, however many approve it at the same time', async () => {
    const id = await submit('contributor', rename('img/unused.png', 'used.png'));
    const plans = await Promise.all(
      (['editor', 'steward'] as const).map(async (role) => ({
        role,
        plan: (await json<SubmittedPlan>(look(role, id))).plan.id,
      })),
    );
    const entries = roles.site.rows.count();
    const answers = await Promise.all(
      plans.map(({ role, plan }) => as(role, 'POST', `/plans/${plan}/apply`, {})),
    );
    expect(answers.map((answer) => answer.status).sort()).toEqual([200, 409]);
    expect(roles.site.rows.count()).toBe(entries + 1);
  });

  test('stands in the ledger: proposed, sent back, withdrawn, by whom; each undone by those who may', async () => {
    const id = await submit('contributor', rename('old/copy-of-b.png', 'ledge.png'));
    const title = 'Rename “copy-of-b.png” to “ledge.png”';
    expect((await as('editor', 'POST', `/submissions/${id}/return`, { answer: 'Which ledge?' })).status).toBe(
      200,
    );
    const entries = await json<EntryView[]>(as('reader', 'GET', '/ledger'));
    expect(entries.slice(0, 2).map((one) => [one.person, one.title])).toEqual([
      ['Ben', `Send back: ${title}`],
      ['Ines', `Propose: ${title}`],
    ]);
    const shown = await json<PlanView>(as('reader', 'GET', `/ledger/${entries[0]!.id}`));
    expect(shown.settings[0]).toMatchObject({
      before: 'waits for approval',
      after: 'sent back: Which ledge?',
    });
    const undo = { kind: 'undo', entryId: entries[0]!.id };
    expect((await as('contributor', 'POST', '/plans', undo)).status).toBe(403);
    const plan = await json<PlanView>(as('editor', 'POST', '/plans', undo));
    expect((await as('editor', 'POST', `/plans/${plan.id}/apply`, {})).status).toBe(200);
    expect((await lists('editor')).waiting.map((one) => one.id)).toContain(id);
    expect((await as('contributor', 'POST', `/submissions/${id}/withdraw`, {})).status).toBe(200);
    const [last] = await json<EntryView[]>(as('reader', 'GET', '/ledger'));
    expect([last!.person, last!.title]).toEqual(['Ines', `Withdraw: ${title}`]);
    // The editor can't let it wait again: it is its author's.
    expect((await as('editor', 'POST', '/plans', { kind: 'undo', entryId: last!.id })).status).toBe(403);
    // Answered twice at the same time, it is answered once.
    const again = await submit('contributor', rename('old/copy-of-b.png', 'ledge.png'));
    const both = await Promise.all(
      ['one', 'two'].map((answer) => as('editor', 'POST', `/submissions/${again}/return`, { answer })),
    );
    expect(both.map((one) => one.status).sort()).toEqual([200, 409]);
    expect(roles.site.ledger.unsettled).toEqual([]);
    await as('contributor', 'POST', `/submissions/${again}/withdraw`, {});
  });

  test('of somebody who may not even propose it any more, or has ended, is refused when it is applied', async () => {
    const id = await submit('contributor', rename('img/b.png', 'bay.png'));
    const { plan } = await json<SubmittedPlan>(look('editor', id));
    await giveRole('contributor', 'reader');
    const refused = await as('editor', 'POST', `/plans/${plan.id}/apply`, {});
    expect([refused.status, ((await refused.json()) as Said).message]).toEqual([
      403,
      'Ines is a reader now and may no longer propose this.',
    ]);
    await changeMember(roles.site, personOf('contributor').id, { ended: true });
    expect(((await (await look('editor', id)).json()) as Said).message).toBe(
      'Ines’s access has ended, so the proposal can’t be applied.',
    );
    // What they leave behind is offered to another.
    const ines = roles.site.people.rows().find((one) => one.name === 'Ines')!.id;
    expect((await as('editor', 'GET', `/people/${ines}/holdings`)).status).toBe(403);
    const { proposals } = await json<{ proposals: number }>(as('steward', 'GET', `/people/${ines}/holdings`));
    expect(proposals).toBe(1);
    const to = (role: Role) =>
      as('steward', 'POST', '/plans', { kind: 'hand-on', personId: ines, to: personOf(role).id });
    expect((await to('reader')).status).toBe(400);
    await giveRole('reader', 'contributor');
    const handing = await json<PlanView>(to('reader'));
    expect([handing.title, handing.settings]).toEqual([
      `Hand on what Ines had to ${NAMES.reader}`,
      [{ what: `Author of proposal ${id}`, before: 'Ines', after: NAMES.reader }],
    ]);
    const apply = async (plan: PlanView) =>
      (await json<{ entryId: number }>(as('steward', 'POST', `/plans/${plan.id}/apply`, {}))).entryId;
    const entryId = await apply(handing);
    const mine = async () => (await lists('reader')).mine.map((one) => [one.id, one.state]);
    expect(await mine()).toEqual([[id, 'waiting']]);
    expect((await look('editor', id)).status).toBe(200);
    // It stands in the ledger, and only who answers for people takes it back; then it can be done again.
    expect((await as('editor', 'POST', '/plans', { kind: 'undo', entryId })).status).toBe(403);
    const back = await apply(
      await json<PlanView>(as('steward', 'POST', '/plans', { kind: 'undo', entryId })),
    );
    expect(await mine()).toEqual([]);
    await apply(await json<PlanView>(as('steward', 'POST', '/plans', { kind: 'undo', entryId: back })));
    expect(await mine()).toEqual([[id, 'waiting']]);
    await as('reader', 'POST', `/submissions/${id}/withdraw`, {});
    await giveRole('reader', 'reader');
    expect(await treeOf(root)).toEqual(before);
  });
});
