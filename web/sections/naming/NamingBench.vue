<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core';
import { computed, onMounted, ref } from 'vue';
import type { NamingTable, SavedPatterns } from '../../../api/naming.ts';
import type { OwnField } from '../../../core/describe/fields.ts';
import { baseName } from '../../../core/address/path.ts';
import { newPiece, PLAIN_PATTERN, type NamePattern, type NamePiece } from '../../../core/naming/pattern.ts';
import { api, sentenceOf } from '../../api/client.ts';
import ComposingLine from '../../parts/ComposingLine.vue';
import PatternWhole from '../../parts/PatternWhole.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import NamingProof from './NamingProof.vue';
import { useNaming, type NamingChoices, type NamingOrder } from './useNaming.ts';
import type { z } from 'zod';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** The composing line, and below it the proof of all the new names. */
const props = defineProps<{
  table: NamingTable;
  asked: number;
  own: readonly OwnField[];
  what: string;
  choices: NamingChoices;
}>();
const plan = usePlan();
const site = useSite();

const written = useSessionStorage<NamePattern>('iconomos.naming', {
  ...PLAIN_PATTERN,
  pieces: [newPiece('title'), newPiece('counter')],
});
const pattern = written.value;
const naming = useNaming(props.table, props.asked, pattern, props.choices);
const { order, together, typed, names, pending, rows } = naming;
const pieces = computed({
  get: () => pattern.pieces as NamePiece[],
  set: (next) => (pattern.pieces = next),
});
const whole = computed({
  get: () => pattern,
  set: (next) => Object.assign(pattern, next, { pieces: pattern.pieces }),
});

const example = ref(props.table.items[0]?.id ?? 0);
const texts = computed(() => naming.pieceTexts(example.value));
const followers = computed(() => props.table.items.length - props.asked);

const ORDERS: [NamingOrder, string][] = [
  ['given', 'tray order'],
  ['name', 'current name'],
  ['taken', 'date taken'],
  ['added', 'date added'],
  ['title', 'title'],
];

const changes = computed(() => [...names.value.values()].filter((one) => one.from !== one.to && !one.fault));
const faults = computed(() => [...names.value.values()].filter((one) => one.fault).length);
async function look() {
  await plan.propose({
    kind: 'names',
    names: changes.value.map((one) => ({ itemId: one.id, name: baseName(one.to) })),
  });
}

const kept = ref<z.infer<typeof SavedPatterns>>([]);
const keeping = ref(false);
const keepName = ref('');
const fault = ref('');
async function loadKept() {
  kept.value = await api.namePatterns();
}
onMounted(loadKept);
async function keep(name: string, forget = false) {
  fault.value = '';
  try {
    const value = JSON.parse(JSON.stringify(pattern)) as z.infer<typeof SavedPatterns>[number]['pattern'];
    await plan.make({ kind: 'name-pattern', name: name.trim(), pattern: forget ? null : value });
    keeping.value = false;
    await loadKept();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
function take(name: string) {
  const found = kept.value.find((one) => one.name === name);
  if (!found) return;
  Object.assign(pattern, JSON.parse(JSON.stringify(found.pattern)) as NamePattern);
  keepName.value = name;
}
</script>

<template>
  <section class="compose" aria-label="Pattern">
    <ComposingLine v-model="pieces" :separator="pattern.separator" :texts="texts" :own="own" />
    <PatternWhole v-model="whole" class="whole" />
    <div class="row">
      <label class="kept"
        ><span>Saved patterns</span>
        <AppSelect :model-value="keepName" :chars="16" @change="take($event)"
          ><AppOption value="" :label="kept.length ? 'choose one' : 'none yet'" />
          <AppOption v-for="one in kept" :key="one.name" :value="one.name" :label="one.name" /> </AppSelect
      ></label>
      <form v-if="keeping" class="keep" @submit.prevent="keep(keepName)">
        <AppInput
          v-model="keepName"
          maxlength="60"
          required
          aria-label="Name of the pattern"
          placeholder="a name"
        />
        <AppButton look="link" type="submit">Keep</AppButton>
        <AppButton look="link" @click="keeping = false">Cancel</AppButton>
      </form>
      <template v-else-if="site.may('settings')">
        <AppButton look="link" :disabled="pattern.pieces.length === 0" @click="keeping = true">
          Save pattern
        </AppButton>
        <AppButton v-if="kept.some((one) => one.name === keepName)" look="link" @click="keep(keepName, true)">
          Delete “{{ keepName }}”
        </AppButton>
      </template>
      <label class="order"
        ><span>Number by</span>
        <AppSelect v-model="order" :chars="18"
          ><AppOption v-for="[key, words] in ORDERS" :key="key" :value="key" :label="words" /> </AppSelect
      ></label>
      <AppCheckbox v-if="followers" v-model="together">
        {{ count(followers, 'size variant') }} included</AppCheckbox
      >
    </div>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  </section>
  <NamingProof
    :rows="rows"
    :facts="naming.facts"
    :table="table"
    :names="names"
    :pending="pending"
    :typed="typed"
    :name-of="naming.nameOf"
    :example="example"
    @example="example = $event"
    @type="(id, stem) => (stem === undefined ? typed.delete(id) : typed.set(id, stem))"
  />
  <footer>
    <p class="figures" role="status">
      {{ count(asked, 'item') }} {{ what }};
      {{
        pending
          ? 'Composing …'
          : changes.length === 0 && faults === 0
            ? 'all names are as the pattern makes them'
            : `${count(changes.length, 'name')} will change`
      }}
      <template v-if="faults && !pending">, {{ count(faults, 'name') }} can’t be used</template>
    </p>
    <AppButton
      look="main"
      :disabled="pending || changes.length === 0 || faults > 0 || plan.busy"
      @click="look"
    >
      Review {{ count(changes.length, 'new name') }}
    </AppButton>
  </footer>
</template>

<style scoped>
.compose {
  padding: 0 24px 12px;
  border-bottom: 1px solid var(--rule-strong);
}
.whole,
.row {
  margin-top: 10px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 16px;
}
.row label {
  display: flex;
  align-items: center;
  font-size: 13px;
  gap: 6px;
}
.order {
  margin-left: auto;
}
.keep {
  display: flex;
  align-items: center;
  gap: 8px;
}
footer {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 10px 24px;
  border-top: 1px solid var(--rule-strong);
}
</style>
