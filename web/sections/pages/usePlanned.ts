import { onUnmounted, ref, watch } from 'vue';
import type { PlanRequest, PlanView } from '../../../api/plans.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';

/** Milliseconds without a further choice after which the plan is computed anew. */
const REST = 450;

/**
 * A plan that follows the choices of a form, to be seen on the page before it is written.
 * @param request what the choices ask for; undefined: not enough is chosen yet
 * @param planned called with the id of each plan that can be looked at
 * @param done called when it is written
 */
export function usePlanned(
  request: () => PlanRequest | undefined,
  planned: (id: string | undefined) => void,
  done: () => void,
) {
  const plan = usePlan();
  const made = ref<PlanView>();
  const fault = ref('');
  const busy = ref(false);
  let asked = 0;
  let timer: ReturnType<typeof setTimeout> | undefined;

  // By what it says: the same choices in new clothes are no other plan.
  watch(
    () => JSON.stringify(request()),
    () => {
      const next = request();
      clearTimeout(timer);
      // What was planned, or is still being planned, is of another choice: it cannot be written any more.
      asked++;
      busy.value = next !== undefined;
      if (next) timer = setTimeout(() => void propose(next), made.value ? REST : 0);
    },
    { immediate: true },
  );
  onUnmounted(() => clearTimeout(timer));

  async function propose(wanted: PlanRequest) {
    const mine = ++asked;
    busy.value = true;
    try {
      const next = await api.plan(wanted);
      if (mine !== asked) return;
      made.value = next;
      fault.value = next.clashes.map((one) => one.why).join(' ');
      planned(fault.value ? undefined : next.id);
    } catch (error) {
      if (mine === asked) fault.value = sentenceOf(error);
    } finally {
      if (mine === asked) busy.value = false;
    }
  }

  async function write() {
    const wanted = request();
    if (!made.value || !wanted) return;
    // Somebody else has to approve it.
    if (made.value.approval) return plan.show(wanted, made.value);
    busy.value = true;
    try {
      await plan.changed(await api.apply(made.value.id));
      done();
    } catch (error) {
      // The page or a record moved on: the plan is shown as it is now, and why.
      const said = sentenceOf(error);
      await propose(wanted);
      fault.value = said;
    } finally {
      busy.value = false;
    }
  }
  return { made, fault, busy, write };
}
