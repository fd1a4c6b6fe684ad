<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { DoubleGroup } from '../../../api/upkeep.ts';
import { SURENESS, CHECKS } from '../../../core/upkeep/checks.ts';
import { KEEPER_RULES, type KeeperRule } from '../../../core/upkeep/keeper.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import DoubleCard from './DoubleCard.vue';
import LeaveAlone from './LeaveAlone.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { laterPart } from '../../kit/later.ts';

const LookCloser = laterPart(() => import('../../parts/LookCloser.vue'));

/** Groups of doubles: for each the one that stays, by a rule for all, and changed where the person knows better. */
const props = defineProps<{ check: 'copies' | 'look-alikes' }>();
const emit = defineEmits<{ open: [id: number] }>();
const site = useSite();
const plan = usePlan();

const groups = ref<DoubleGroup[]>();
const fault = ref('');
const rule = ref<KeeperRule>('placed');
const folder = ref('');
const folders = ref<string[]>([]);
/** By the group's first item: the keeper that a person chose, items that are left out, whether it is merged. */
const keepers = ref(new Map<number, number>());
const leftOut = ref(new Set<number>());
const chosen = ref(new Set<number>());
const leaving = ref<DoubleGroup>();
const compared = ref<number[]>();
/** So many groups are drawn; all of them are planned. */
const shown = ref(40);

async function load() {
  try {
    groups.value = await api.doubles(props.check, rule.value, folder.value);
    const there = new Set(groups.value.map(keyOf));
    chosen.value = new Set([...chosen.value].filter((key) => there.has(key)));
    fault.value = '';
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch(() => site.revision, load, { immediate: true });
watch([rule, folder], () => {
  keepers.value = new Map();
  void load();
});
watch(rule, async (now) => {
  if (now !== 'folder' || folders.value.length > 0) return;
  try {
    folders.value = (await api.folders()).map((one) => one.folder);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});

const keyOf = (group: DoubleGroup) => group.members[0]!.item.id;
const keeperOf = (group: DoubleGroup) => keepers.value.get(keyOf(group)) ?? group.keeperId;
const reasonOf = (group: DoubleGroup) => (keepers.value.has(keyOf(group)) ? 'your choice' : group.reason);
const goes = (group: DoubleGroup) =>
  group.members
    .map(({ item }) => item)
    .filter((item) => item.id !== keeperOf(group) && !leftOut.value.has(item.id));

function keep(group: DoubleGroup, id: number) {
  keepers.value = new Map(keepers.value).set(keyOf(group), id);
}
function flipped(set: ReadonlySet<number>, id: number): Set<number> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}
/** Groups that can be merged: something stays, and something goes. */
const ready = computed(() =>
  (groups.value ?? []).filter((group) => keeperOf(group) !== null && goes(group).length > 0),
);
const merged = computed(() => ready.value.filter((group) => chosen.value.has(keyOf(group))));
const freed = computed(() =>
  merged.value.reduce((sum, group) => sum + goes(group).reduce((total, item) => total + item.bytes, 0), 0),
);
const members = computed(() => (groups.value ?? []).reduce((sum, group) => sum + group.members.length, 0));
function chooseAll() {
  chosen.value = merged.value.length === ready.value.length ? new Set() : new Set(ready.value.map(keyOf));
}
function merge(some: DoubleGroup[]) {
  void plan.propose({
    kind: 'merge',
    groups: some.map((group) => ({
      keeperId: keeperOf(group)!,
      otherIds: goes(group).map((item) => item.id),
    })),
  });
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <template v-if="groups?.length">
    <div class="acts">
      <label
        >Keep
        <AppSelect v-model="rule" :chars="24"
          ><AppOption
            v-for="(words, name) in KEEPER_RULES"
            :key="name"
            :value="name"
            :label="words"
          /> </AppSelect
      ></label>
      <label v-if="rule === 'folder'"
        ><span class="hidden-words">Folder</span>
        <AppSelect v-model="folder" :chars="24"
          ><AppOption
            v-for="one in folders"
            :key="one"
            :value="one"
            :label="one || 'the whole site'"
          /> </AppSelect
      ></label>
      <AppButton look="main" :disabled="merged.length === 0" @click="merge(merged)">
        Merge {{ count(merged.length, 'group') }} …
      </AppButton>
      <AppButton look="link" @click="chooseAll"
        >{{ merged.length === ready.length && ready.length > 0 ? 'Deselect all' : 'Select all' }}
      </AppButton>
      <span class="soft figures"
        >{{ count(groups.length, 'group') }} of {{ count(members, 'item')
        }}<template v-if="merged.length">, {{ weight(freed) }} less</template>. Certainty:
        {{ SURENESS[CHECKS[check].sure] }}.</span
      >
    </div>
    <section
      v-for="group in groups.slice(0, shown)"
      :key="keyOf(group)"
      :aria-label="`Group of ${group.members[0]!.item.name}`"
    >
      <div class="line">
        <AppCheckbox
          class="pick"
          :model-value="chosen.has(keyOf(group))"
          :disabled="!ready.includes(group)"
          @change="chosen = flipped(chosen, keyOf(group))"
        >
          <strong class="figures">{{
            check === 'copies'
              ? `${count(group.members.length, 'copy', 'copies')} of ${weight(group.members[0]!.item.bytes)}`
              : count(group.members.length, 'image')
          }}</strong>
        </AppCheckbox>
        <span v-if="keeperOf(group) === null" class="ochre">{{ group.reason }}</span>
        <span class="spread"></span>
        <AppButton
          v-if="group.members.length <= 4 && group.members[0]!.item.kind === 'image'"
          look="link"
          @click="compared = group.members.map(({ item }) => item.id)"
        >
          Compare
        </AppButton>
        <AppButton look="link" @click="leaving = group">Dismiss …</AppButton>
        <AppButton look="link" :disabled="!ready.includes(group)" @click="merge([group])">
          Merge group …
        </AppButton>
      </div>
      <div class="cards" role="radiogroup" :aria-label="`Which to keep of ${group.members[0]!.item.name}`">
        <DoubleCard
          v-for="member in group.members"
          :key="member.item.id"
          :member="member"
          :keeper="group.members.find(({ item }) => item.id === keeperOf(group))?.item"
          :group="keyOf(group)"
          :reason="reasonOf(group)"
          :left-out="leftOut.has(member.item.id)"
          @keep="keep(group, member.item.id)"
          @leave="leftOut = flipped(leftOut, member.item.id)"
          @open="emit('open', member.item.id)"
        />
      </div>
    </section>
    <AppButton v-if="groups.length > shown" @click="shown += 40">
      Show {{ Math.min(40, groups.length - shown) }} more
    </AppButton>
  </template>
  <p v-else-if="groups" class="empty">No duplicates.</p>
  <LeaveAlone
    v-if="leaving"
    :check="check"
    :subjects="leaving.members.map(({ item }) => String(item.id))"
    @close="leaving = undefined"
    @done="leaving = undefined"
  />
  <LookCloser v-if="compared" :ids="compared" @close="compared = undefined" />
</template>

<style scoped>
.acts,
.line {
  display: flex;
  align-items: center;
  gap: 14px;
}
.acts {
  position: sticky;
  z-index: 1;
  top: -18px;
  padding: 8px 0;
  background: var(--paper);
}
label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.spread {
  flex: 1;
}
section {
  padding: 8px 0 12px;
  border-top: 1px solid var(--rule);
}
/* However many there are, none is cut off. */
.cards {
  display: grid;
  margin-top: 6px;
  gap: 12px;
  grid-template-columns: repeat(auto-fill, minmax(min(206px, 100%), 1fr));
}
@media (width <= 760px) {
  .acts,
  .line {
    flex-wrap: wrap;
    gap: 4px 14px;
  }
}
.ochre {
  color: var(--ochre);
}
</style>
