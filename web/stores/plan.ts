import { defineStore } from 'pinia';
import { ref, watch } from 'vue';
import type { Applied, PlanRequest, PlanView } from '../../api/plans.ts';
import type { SubmittedPlan } from '../../api/submissions.ts';
import { api, Refused, sentenceOf } from '../api/client.ts';
import { useSite } from './site.ts';

/** The plan that is being looked at, and what came of the last one. */
export const usePlan = defineStore('plan', () => {
  const request = ref<PlanRequest>();
  const plan = ref<PlanView>();
  const fault = ref('');
  const busy = ref(false);
  const done = ref<Applied>();
  /** How what was done is taken back; empty: it cannot be. */
  const back = ref<'Undo' | 'Redo' | ''>('Undo');
  /** What the person wants to be remembered with it, or says to those who approve. */
  const note = ref('');
  /** What somebody has proposed, when that is looked at; `moved`: what has changed since. */
  const submission = ref<SubmittedPlan>();
  /** What was last proposed. */
  const submitted = ref('');

  async function propose(wanted: PlanRequest) {
    request.value = wanted;
    submission.value = undefined;
    fault.value = '';
    busy.value = true;
    try {
      plan.value = await api.plan(wanted);
    } catch (error) {
      // Whoever stopped it knows.
      if (error instanceof Refused && error.fault.code === 'cancelled') return close();
      fault.value = sentenceOf(error);
      plan.value = undefined;
    } finally {
      busy.value = false;
    }
  }

  /** Shows what somebody has proposed, as it would be now. */
  async function look(id: number) {
    close();
    busy.value = true;
    try {
      submission.value = await api.submittedPlan(id);
      plan.value = submission.value.plan;
    } catch (error) {
      fault.value = sentenceOf(error);
    } finally {
      busy.value = false;
    }
  }
  /** Instead of applying it: those who may are asked to. */
  async function submit() {
    if (!plan.value) return;
    busy.value = true;
    fault.value = '';
    try {
      await api.submit(plan.value.id, note.value);
      submitted.value = plan.value.title;
      done.value = undefined;
      close();
    } catch (error) {
      const said = sentenceOf(error);
      if (request.value) await propose(request.value);
      fault.value = said;
    } finally {
      busy.value = false;
    }
  }
  /** @param answer why */
  async function sendBack(answer: string) {
    if (!submission.value) return;
    fault.value = '';
    try {
      await api.returnSubmission(submission.value.submission.id, answer);
      close();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  }

  async function apply(): Promise<boolean> {
    if (!plan.value || !(request.value || submission.value)) return false;
    busy.value = true;
    fault.value = '';
    try {
      const { id, kind } = plan.value;
      const applied = await api.apply(id, note.value);
      back.value = kind === 'empty' ? '' : kind === 'undo' ? 'Redo' : 'Undo';
      done.value = applied;
      submitted.value = '';
      close();
      await useSite().changed();
      return true;
    } catch (error) {
      const said = sentenceOf(error);
      // The site or the record moved on: show the plan as it is now, and why.
      if (error instanceof Refused && error.fault.code !== 'cancelled')
        await (submission.value ? look(submission.value.submission.id) : propose(request.value!));
      fault.value = said;
      return false;
    } finally {
      busy.value = false;
    }
  }

  /**
   * For small changes that a form has shown whole: planned and applied at once, with their undo in the line below.
   * @throws what the server refuses
   */
  async function make(wanted: PlanRequest): Promise<void> {
    const made = await api.plan(wanted);
    const [clash] = made.clashes;
    if (clash) throw new Error(`“${clash.path}”: ${clash.why}`);
    if (made.empty) return;
    // Somebody else has to approve it: then it is shown, to be proposed.
    if (made.approval) return show(wanted, made);
    await changed(await api.apply(made.id));
  }
  /** Shows a plan that was computed elsewhere. */
  function show(wanted: PlanRequest, made: PlanView) {
    request.value = wanted;
    plan.value = made;
  }
  /** What was applied elsewhere is told as done, with its undo. */
  async function changed(applied: Applied) {
    back.value = 'Undo';
    done.value = applied;
    await useSite().changed();
  }

  /** Runs once the plan that is looked at has been applied; not when it is left. */
  function afterwards(act: () => void) {
    const before = done.value;
    const stop = watch(plan, (now) => {
      if (now) return;
      stop();
      if (done.value !== before) act();
    });
  }

  function close() {
    note.value = '';
    plan.value = undefined;
    request.value = undefined;
    submission.value = undefined;
    fault.value = '';
  }

  return {
    request,
    plan,
    fault,
    busy,
    done,
    back,
    note,
    submission,
    submitted,
    propose,
    look,
    submit,
    sendBack,
    apply,
    make,
    show,
    changed,
    afterwards,
    close,
  };
});
