<script setup lang="ts">
import {
  DATE_FORMS,
  LETTER_CASES,
  PIECE_NAMES,
  PRESENT_PARTS,
  RESTARTS,
  type NamePiece,
} from '../../core/naming/pattern.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';
import AppNumber from '../kit/AppNumber.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';

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
  all: 'whole name',
  words: 'words only',
  number: 'last number',
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
</script>

<template>
  <div class="piece form-row" role="group" :aria-label="`${PIECE_NAMES[piece.piece]}, settings`">
    <label v-if="piece.piece === 'text'"
      ><span>Text</span
      ><AppInput :model-value="piece.text" maxlength="100" :chars="24" @input="set({ text: $event })"
    /></label>
    <label v-if="piece.piece === 'tags'"
      ><span>How many tags</span
      ><AppNumber :min="1" :max="20" :model-value="piece.most" @change="set({ most: $event ?? 1 })"
    /></label>
    <label v-if="piece.piece === 'folder'"
      ><span>How many folders, from the item up</span
      ><AppNumber :min="1" :max="10" :model-value="piece.levels" @change="set({ levels: $event ?? 1 })"
    /></label>
    <label v-if="piece.piece === 'taken' || piece.piece === 'added'"
      ><span>Form</span
      ><AppSelect :model-value="piece.form" @change="set({ form: $event })"
        ><AppOption v-for="form in DATE_FORMS" :key="form" :value="form" :label="FORMS[form]" /> </AppSelect
    ></label>
    <template v-if="piece.piece === 'counter'">
      <label
        ><span>From</span
        ><AppNumber :min="0" :model-value="piece.start" @update:model-value="set({ start: $event ?? 0 })"
      /></label>
      <label
        ><span>Step</span
        ><AppNumber :min="1" :model-value="piece.step" @update:model-value="set({ step: $event ?? 1 })"
      /></label>
      <label
        ><span>Digits</span
        ><AppNumber
          :min="1"
          :max="9"
          :model-value="piece.width"
          @update:model-value="set({ width: $event ?? 1 })"
      /></label>
      <label
        ><span>Restart</span
        ><AppSelect :model-value="piece.restart" @change="set({ restart: $event })"
          ><AppOption
            v-for="one in RESTARTS"
            :key="one"
            :value="one"
            :label="RESTART_WORDS[one]"
          /> </AppSelect
      ></label>
    </template>
    <template v-if="piece.piece === 'present'">
      <label
        ><span>Keep</span
        ><AppSelect :model-value="piece.part" @change="set({ part: $event })"
          ><AppOption
            v-for="one in PRESENT_PARTS"
            :key="one"
            :value="one"
            :label="PART_WORDS[one]"
          /> </AppSelect
      ></label>
      <template v-if="piece.part === 'characters'">
        <label
          ><span>From the</span
          ><AppNumber
            :min="1"
            :max="255"
            :model-value="piece.from ?? 1"
            @update:model-value="set({ from: $event ?? 1 })"
        /></label>
        <label
          ><span>to the</span
          ><AppNumber
            :min="1"
            :max="255"
            :model-value="piece.to"
            placeholder="end"
            @update:model-value="set({ to: $event ?? undefined })"
        /></label>
      </template>
    </template>
    <template v-if="wordy.includes(piece.piece)">
      <label
        ><span>Words at most</span
        ><AppNumber
          :min="1"
          :max="100"
          :model-value="piece.words"
          placeholder="all"
          @update:model-value="set({ words: $event })"
      /></label>
      <label
        ><span>Find</span
        ><AppInput :model-value="piece.find ?? ''" :chars="10" @input="set({ find: $event })"
      /></label>
      <label
        ><span>Replace with</span
        ><AppInput
          :model-value="piece.replace ?? ''"
          placeholder="nothing"
          :chars="10"
          @input="set({ replace: $event })"
      /></label>
      <label
        ><span>Letter case</span
        ><AppSelect :model-value="piece.case ?? ''" @change="set({ case: $event || null })"
          ><AppOption value="" label="same as the whole name" />
          <AppOption
            v-for="one in LETTER_CASES"
            :key="one"
            :value="one"
            :label="CASE_WORDS[one]"
          /> </AppSelect
      ></label>
    </template>
    <span class="ends">
      <AppButton look="link" @click="emit('move', -1)">Move left</AppButton>
      <AppButton look="link" @click="emit('move', 1)">Move right</AppButton>
      <AppButton look="link" danger @click="emit('remove')">Remove</AppButton>
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
