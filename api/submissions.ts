import { z } from 'zod';
import { CommentView, ItemView } from './items.ts';
import { PlanView } from './plans.ts';

/** A plan that somebody proposes, and what came of it. */
export const SubmissionView = z.object({
  id: z.int(),
  at: z.string(),
  personId: z.int(),
  person: z.string(),
  kind: z.string(),
  title: z.string(),
  items: z.int(),
  pages: z.int(),
  note: z.string(),
  state: z.enum(['waiting', 'returned', 'applied', 'withdrawn']),
  /** Why it was sent back. */
  answer: z.string(),
  answeredAt: z.string().nullable(),
  answeredBy: z.string().nullable(),
  /** The change that came of it. */
  entryId: z.int().nullable(),
});
export type SubmissionView = z.infer<typeof SubmissionView>;

/** What a person has something to do with: items, and comments that call them. */
export const MineView = z.object({
  items: z.array(ItemView),
  calls: z.array(CommentView.extend({ path: z.string(), state: ItemView.shape.state })),
});
export type MineView = z.infer<typeof MineView>;

/** Those that wait for this person's approval, and those that they have proposed. */
export const SubmissionList = z.object({
  waiting: z.array(SubmissionView),
  mine: z.array(SubmissionView),
});
export type SubmissionList = z.infer<typeof SubmissionList>;

/** What a proposal would change now; `moved`: what has changed since it was made. */
export const SubmittedPlan = z.object({
  submission: SubmissionView,
  plan: PlanView,
  moved: z.array(z.string()),
});
export type SubmittedPlan = z.infer<typeof SubmittedPlan>;

/** Why a proposal is sent back. */
export const ReturnRequest = z.strictObject({ answer: z.string().trim().min(1).max(2000) });
export const Submitted = z.object({ submissionId: z.int() });
