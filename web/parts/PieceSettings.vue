<script setup lang="ts">
import {
  DATE_FORMS,
  LETTER_CASES,
  PIECE_NAMES,
  PRESENT_PARTS,
  RESTARTS,
  type NamePiece,
} from '../../core/naming/pattern.ts';

/** What can be set of one name piece. */
const props = defineProps<{ piece: NamePiece }>();
const emit = defineEmits<{ change: [piece: NamePiece]; remove: []; move: [step: number] }>();

const FORMS: Record<(typeof DATE_FORMS)[number], string> = {
  year: '2026',
  month: '2026-08',
  day: '2026-08-12',
  compact: '20260812',
  time: '2026-08-12-231405',
};
const RESTART_WORDS: Record<(typeof RESTARTS)[number], string> = {
  never: 'never',
  folder: 'in each folder',
  kind: 'for each kind',
  month: 'in each month',
  page: 'for each page',
  name: 'for each name',
};
const PART_WORDS: Record<(typeof PRESENT_PARTS)[number], string> = {
  all: 'all of it',
  words: 'its words',
  number: 'its last number',
  characters: 'some characters',
};
const CASE_WORDS: Record<(typeof LETTER_CASES)[number], string> = {
  lower: 'lower case',
  upper: 'CAPITALS',
  title: 'Each Word',
  'as-written': 'as written',
};
const wordy = ['title', 'alt', 'caption', 'page', 'own', 'tags', 'folder', 'present'];

function set(change: Record<string, unknown>) {
  emit('change', { ...props.piece, ...change } as NamePiece);
}
const value = (event: Event) => (event.target as HTMLInputElement).value;
function number(event: Event, least: number, most: number): number {
  const given = Math.round(Number(value(event)));
  return Number.isFinite(given) ? Math.min(most, Math.max(least, given)) : least;
}
</script>

<template>
  <div class="piece form-row" role="group" :aria-label="`${PIECE_NAMES[piece.piece]}, settings`">
    <label v-if="piece.piece === 'text'"
      ><span>Text</span
      ><input :value="piece.text" maxlength="100" size="24" @input="set({ text: value($event) })"
    /></label>
    <label v-if="piece.piece === 'tags'"
      ><span>How many tags</span
      ><input
        type="number"
        min="1"
        max="20"
        :value="piece.most"
        @change="set({ most: number($event, 1, 20) })"
    /></label>
    <label v-if="piece.piece === 'folder'"
      ><span>How many folders, from the item up</span
      ><input
        type="number"
        min="1"
        max="10"
        :value="piece.levels"
        @change="set({ levels: number($event, 1, 10) })"
    /></label>
    <label v-if="piece.piece === 'taken' || piece.piece === 'added'"
      ><span>Form</span
      ><select :value="piece.form" @change="set({ form: value($event) })">
        <option v-for="form in DATE_FORMS" :key="form" :value="form">{{ FORMS[form] }}</option>
      </select></label
    >
    <template v-if="piece.piece === 'counter'">
      <label
        ><span>From</span
        ><input
          type="number"
          min="0"
          :value="piece.start"
          @input="set({ start: number($event, 0, 1_000_000) })"
      /></label>
      <label
        ><span>Step</span
        ><input type="number" min="1" :value="piece.step" @input="set({ step: number($event, 1, 1000) })"
      /></label>
      <label
        ><span>Digits</span
        ><input
          type="number"
          min="1"
          max="9"
          :value="piece.width"
          @input="set({ width: number($event, 1, 9) })"
      /></label>
      <label
        ><span>Starts anew</span
        ><select :value="piece.restart" @change="set({ restart: value($event) })">
          <option v-for="one in RESTARTS" :key="one" :value="one">{{ RESTART_WORDS[one] }}</option>
        </select></label
      >
    </template>
    <template v-if="piece.piece === 'present'">
      <label
        ><span>Keep</span
        ><select :value="piece.part" @change="set({ part: value($event) })">
          <option v-for="one in PRESENT_PARTS" :key="one" :value="one">{{ PART_WORDS[one] }}</option>
        </select></label
      >
      <template v-if="piece.part === 'characters'">
        <label
          ><span>From the</span
          ><input
            type="number"
            min="1"
            max="255"
            :value="piece.from ?? 1"
            @input="set({ from: number($event, 1, 255) })"
        /></label>
        <label
          ><span>to the</span
          ><input
            type="number"
            min="1"
            max="255"
            :value="piece.to ?? ''"
            placeholder="end"
            @input="set({ to: value($event) === '' ? undefined : number($event, 1, 255) })"
        /></label>
      </template>
    </template>
    <template v-if="wordy.includes(piece.piece)">
      <label
        ><span>Words at most</span
        ><input
          type="number"
          min="1"
          max="100"
          :value="piece.words ?? ''"
          placeholder="all"
          @input="set({ words: value($event) === '' ? null : number($event, 1, 100) })"
      /></label>
      <label
        ><span>Find</span><input :value="piece.find ?? ''" size="10" @input="set({ find: value($event) })"
      /></label>
      <label
        ><span>put in its place</span
        ><input
          :value="piece.replace ?? ''"
          size="10"
          placeholder="nothing"
          @input="set({ replace: value($event) })"
      /></label>
      <label
        ><span>Letters</span
        ><select :value="piece.case ?? ''" @change="set({ case: value($event) || null })">
          <option value="">as the whole name</option>
          <option v-for="one in LETTER_CASES" :key="one" :value="one">{{ CASE_WORDS[one] }}</option>
        </select></label
      >
    </template>
    <span class="ends">
      <button class="link" type="button" @click="emit('move', -1)">Move left</button>
      <button class="link" type="button" @click="emit('move', 1)">Move right</button>
      <button class="link losing" type="button" @click="emit('remove')">Take out</button>
    </span>
  </div>
</template>

<style scoped>
.piece {
  padding: 8px 12px;
  margin-top: 8px;
  border-left: 3px solid var(--verdigris);
  background: var(--paper-raised);
}
.ends {
  display: flex;
  margin-left: auto;
  gap: 10px;
}
.losing {
  color: var(--madder);
}
</style>
