<script setup lang="ts">
import { computed, ref } from 'vue';
import type { BrokenView } from '../../api/pages.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import AppButton from '../kit/AppButton.vue';
import { laterPart } from '../kit/later.ts';

const ItemPicker = laterPart(() => import('./ItemPicker.vue'));

/** References that lead nowhere, each with what it likely means: one click makes the plan that mends it. */
const props = defineProps<{ broken: readonly BrokenView[]; pages?: boolean }>();
const plan = usePlan();
const site = useSite();
const repairs = computed(() => site.can('place'));
const choosing = ref<BrokenView>();

function repair(one: BrokenView, path: string) {
  void plan.propose({ kind: 'repair', places: [{ page: one.page, start: one.start, path }] });
}
function repairSure() {
  void plan.propose({
    kind: 'repair',
    places: props.broken
      .filter((one) => one.repairs[0]?.sure)
      .map((one) => ({ page: one.page, start: one.start, path: one.repairs[0]!.path })),
  });
}
</script>

<template>
  <AppButton v-if="repairs && broken.filter((one) => one.repairs[0]?.sure).length > 1" @click="repairSure">
    Repair {{ broken.filter((one) => one.repairs[0]?.sure).length }} that are sure …
  </AppButton>
  <ul>
    <li v-for="one in broken" :key="`${one.page} ${one.start}`">
      <p>
        <span class="mono madder">{{ one.url }}</span>
        <span class="soft">
          line {{ one.line }}<template v-if="pages"> of {{ one.page }}</template
          ><template v-if="one.unsure"
            >; may be right if your site generator serves this file elsewhere</template
          ></span
        >
      </p>
      <p v-for="repair_ in one.repairs.slice(0, 3)" :key="repair_.path" class="repair">
        <AppButton v-if="repairs" look="link" @click="repair(one, repair_.path)">
          Repair with <span class="mono">{{ repair_.path }}</span>
        </AppButton>
        <template v-else
          >Likely <span class="mono">{{ repair_.path }}</span>,
        </template>
        <span class="soft">{{ repair_.why }}{{ repair_.sure ? '' : '; look first' }}</span>
      </p>
      <p class="repair">
        <span v-if="one.repairs.length === 0" class="soft">Nothing on the site is called like it. </span>
        <AppButton v-if="repairs" look="link" @click="choosing = one">Choose an item …</AppButton>
      </p>
    </li>
  </ul>
  <ItemPicker
    v-if="choosing"
    title="The item that this reference means"
    @choose="
      repair(choosing, $event.path);
      choosing = undefined;
    "
    @close="choosing = undefined"
  />
</template>

<style scoped>
ul {
  margin: 4px 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
p {
  margin: 0;
  overflow-wrap: anywhere;
}
.repair .link {
  text-align: left;
}
.repair {
  margin-left: 14px;
}
.madder {
  color: var(--madder);
}
</style>
