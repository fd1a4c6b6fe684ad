<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { NEW_DAYS, type Estimate, type FindingList } from '../../../api/upkeep.ts';
import { adviceOf, CHECKS, fieldOf, SURENESS, type ItemCheck } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count, moment, USE_WORDS, weight } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import ChoiceLine from './ChoiceLine.vue';
import LeaveAlone from './LeaveAlone.vue';
import MeasurePages from './MeasurePages.vue';
import WriteAll from './WriteAll.vue';
import AppButton from '../../kit/AppButton.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** What one check finds, with its remedy for many at once. */
const props = defineProps<{ check: ItemCheck }>();
const emit = defineEmits<{ open: [id: number] }>();
const site = useSite();
const plan = usePlan();
const tray = useTray();

const STEP = 200;
const list = ref<FindingList>();
const fault = ref('');
const chosen = ref(new Set<number>());
const leaving = ref(false);
const estimate = ref<Estimate>();
const weighing = ref(false);

async function load() {
  try {
    const wanted = Math.max(STEP, Math.ceil((list.value?.findings.length ?? 0) / STEP) * STEP);
    list.value = await api.findings(props.check, age.value, Math.min(500, wanted), 0);
    const there = new Set(list.value.findings.map((one) => one.item.id));
    if (list.value.total === there.size)
      chosen.value = new Set([...chosen.value].filter((id) => there.has(id)));
    fault.value = '';
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
/** Unused items that were added lately may be about to be used: they are left out unless they are asked for. */
const age = ref(NEW_DAYS);
const AGES = [
  [NEW_DAYS, 'more than 30 days ago'],
  [90, 'more than 90 days ago'],
  [365, 'more than a year ago'],
  [0, 'at any time'],
] as const;
watch([() => site.revision, age], load, { immediate: true });
watch(age, () => (chosen.value = new Set()));
async function more() {
  try {
    const next = await api.findings(props.check, age.value, STEP, list.value!.findings.length);
    list.value!.findings.push(...next.findings);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
const remedy = computed(() => CHECKS[props.check].remedy);
/** What a plan does about them; undefined: they are gathered and taken further from there. */
const PLANNED = {
  'set-aside': { says: 'Set aside', kind: 'set-aside', most: 100_000 },
  lighter: { says: 'Compress', kind: 'lighten', most: 500 },
  offer: { says: 'Add responsive sizes to', kind: 'offer', most: 200 },
  convert: { says: 'Convert to JPEG:', kind: 'convert', most: 500 },
  kept: { says: 'Restore the kept version of', kind: 'kept', most: 500 },
  'without-place': { says: 'Remove the location from', kind: 'without-place', most: 500 },
  forget: { says: 'Delete', kind: 'forget', most: 100_000 },
  'follow-moves': { says: 'Update references to', kind: 'follow-moves', most: 100_000 },
  credits: { says: 'Add the credit to the pages of', kind: 'credits', most: 1000 },
  'right-endings': { says: 'Correct the extension of', kind: 'right-endings', most: 100_000 },
} as const;
const planned = computed(() =>
  remedy.value in PLANNED ? PLANNED[remedy.value as keyof typeof PLANNED] : undefined,
);
function toggle(id: number) {
  const next = new Set(chosen.value);
  if (!next.delete(id)) next.add(id);
  chosen.value = next;
}
const all = computed(() => list.value !== undefined && chosen.value.size === list.value.total);
async function chooseAll() {
  try {
    chosen.value = all.value ? new Set() : new Set(await api.findingIds(props.check, age.value));
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
async function act() {
  if (!planned.value) return gather();
  const { kind, most } = planned.value;
  const itemIds = [...chosen.value].slice(0, most);
  await plan.propose({ kind, itemIds });
}
/** A file with the bytes of a record without file is the one that it misses. */
const reunite = (itemId: number, path: string) => plan.propose({ kind: 'reunite', itemId, path });
/** Into the tray: findings of several checks come together there. */
function gather() {
  tray.add([...chosen.value]);
  chosen.value = new Set();
}
const phones = computed(() => props.check === 'no-sizes');
const weighs = computed(() => phones.value || remedy.value === 'lighter' || remedy.value === 'convert');
async function weigh() {
  weighing.value = true;
  try {
    estimate.value = await api.estimate(props.check);
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    weighing.value = false;
  }
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <MeasurePages v-if="check === 'too-large'" @done="load" />
  <p v-if="check === 'unused' && list" class="age">
    <label
      >Added
      <AppSelect v-model="age" :chars="16"
        ><AppOption v-for="[days, words] in AGES" :key="days" :value="days" :label="words" /> </AppSelect
    ></label>
    <span v-if="list.younger" class="soft figures"
      >{{ count(list.younger, 'unused item') }} added recently and not listed</span
    >
  </p>
  <template v-if="list && list.total > 0">
    <p class="soft figures total">
      {{ count(list.total, 'item') }}, {{ weight(list.bytes)
      }}<template v-if="list.saves">; about {{ weight(list.saves) }} saved (estimate)</template>. Certainty:
      {{ SURENESS[CHECKS[check].sure] }}.
      <template v-if="weighs">
        <AppButton v-if="!estimate" look="link" :disabled="weighing" @click="weigh"
          >{{ weighing ? 'Estimating …' : 'Estimate savings' }}
        </AppButton>
        <span v-else>
          Measured on {{ count(estimate.sampled, 'item') }} of {{ estimate.of }}:
          {{ weight(estimate.before) }} became {{ weight(estimate.after) }}.
          {{ phones ? 'A phone that loads all of them saves' : 'All of them would save' }} about
          {{ weight(estimate.saves) }}.
        </span>
      </template>
      <template v-if="adviceOf(check)"><br />{{ adviceOf(check) }}</template>
    </p>
    <div class="acts">
      <WriteAll v-if="fieldOf(check)" :field="fieldOf(check)!" :ids="[...chosen]" />
      <AppButton
        v-else
        look="main"
        :danger="remedy === 'set-aside' || remedy === 'forget'"
        :disabled="chosen.size === 0"
        @click="act"
        >{{
          planned
            ? `${planned.says} ${count(Math.min(chosen.size, planned.most), 'item')} …`
            : `Add ${count(chosen.size, 'item')} to tray`
        }}
      </AppButton>
      <AppButton v-if="planned || fieldOf(check)" :disabled="chosen.size === 0" @click="gather">
        Add to tray
      </AppButton>
      <AppButton :disabled="chosen.size === 0" @click="leaving = true"
        >{{ check === 'unused' ? 'Keep on purpose …' : 'Dismiss …' }}
      </AppButton>
      <AppButton look="link" @click="chooseAll">{{ all ? 'Deselect all' : 'Select all' }}</AppButton>
      <RouterLink v-if="remedy === 'describe'" to="/describe">Describe one by one</RouterLink>
      <RouterLink v-if="remedy === 'rename'" :to="{ name: 'names' }">Name by a pattern</RouterLink>
    </div>
    <ul>
      <ChoiceLine
        v-for="{ item, why, saves, since, pages, twins, depends } in list.findings"
        :key="item.id"
        :item="item"
        :chosen="chosen.has(item.id)"
        @toggle="toggle(item.id)"
        @open="emit('open', item.id)"
      >
        <p>
          {{ why }}
          <span v-if="pages.length" class="soft">On {{ pages.join(', ') }}.</span>
          <span v-if="depends.length" class="soft"> {{ depends.join(' ') }}</span>
          <template v-for="path in twins" :key="path"
            ><br /><AppButton look="link" @click="reunite(item.id, path)">
              Use “{{ path }}” as its file …
            </AppButton></template
          >
        </p>
        <template #facts>
          {{ weight(item.bytes)
          }}<template v-if="saves && saves !== item.bytes">, {{ weight(saves) }} less</template><br />
          {{
            [
              item.width ? `${item.width} × ${item.height} px` : '',
              item.state === 'here' ? USE_WORDS[item.use] : '',
            ]
              .filter(Boolean)
              .join(', ')
          }}<br />
          {{ check === 'unused' ? 'unused since' : 'found' }} {{ moment(since) }}
        </template>
      </ChoiceLine>
    </ul>
    <AppButton v-if="list.findings.length < list.total" @click="more">
      Show {{ Math.min(STEP, list.total - list.findings.length) }} more
    </AppButton>
  </template>
  <p v-else-if="list?.younger" class="empty">No unused items from before then.</p>
  <p v-else-if="list" class="empty">Nothing to do here.</p>
  <LeaveAlone
    v-if="leaving"
    :check="check"
    :subjects="[...chosen].map(String)"
    @close="leaving = false"
    @done="
      leaving = false;
      chosen = new Set();
    "
  />
</template>

<style scoped>
.total,
.age {
  margin: 0 0 8px;
}
.age {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 14px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 6px 14px;
  margin-bottom: 8px;
}
/* On the line of the buttons' words. */
.acts > .link,
.acts > a {
  padding-bottom: 7px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
</style>
