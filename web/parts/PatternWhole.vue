<script setup lang="ts">
import {
  LETTERS,
  SEPARATORS,
  STOP_WORD_LANGUAGES,
  type LetterCase,
  type Letters,
  type NamePattern,
  type Separator,
  type StopWordLanguage,
} from '../../core/naming/pattern.ts';
import AppNumber from '../kit/AppNumber.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';

/** What holds for a whole name. */
const pattern = defineModel<Omit<NamePattern, 'pieces'>>({ required: true });
function set(change: Partial<NamePattern>) {
  pattern.value = { ...pattern.value, ...change };
}
const SEPARATOR_WORDS: Record<Separator, string> = {
  '-': 'hyphen -',
  _: 'underscore _',
  '.': 'dot .',
  '': 'nothing',
};
const CASES: [LetterCase, string][] = [
  ['lower', 'lower case'],
  ['upper', 'CAPITALS'],
  ['title', 'Each Word'],
  ['as-written', 'as written'],
];
const LETTER_WORDS: Record<Letters, string> = {
  latin: 'é → e, ü → u',
  german: 'é → e, ü → ue',
  ascii: 'é → e, other scripts in Latin letters',
  keep: 'keep',
};
const languages = new Intl.DisplayNames('en', { type: 'language' });
</script>

<template>
  <div class="form-row" role="group" aria-label="For the whole name">
    <label
      ><span>Between words</span
      ><AppSelect :model-value="pattern.separator" @change="set({ separator: $event as Separator })"
        ><AppOption
          v-for="one in SEPARATORS"
          :key="one"
          :value="one"
          :label="SEPARATOR_WORDS[one]"
        /> </AppSelect
    ></label>
    <label
      ><span>Letter case</span
      ><AppSelect :model-value="pattern.case" @change="set({ case: $event as LetterCase })"
        ><AppOption v-for="[one, words] in CASES" :key="one" :value="one" :label="words" /> </AppSelect
    ></label>
    <label
      ><span>Accents and scripts</span
      ><AppSelect :model-value="pattern.letters" @change="set({ letters: $event as Letters })"
        ><AppOption v-for="one in LETTERS" :key="one" :value="one" :label="LETTER_WORDS[one]" /> </AppSelect
    ></label>
    <label
      ><span>Stop words</span
      ><AppSelect
        :model-value="pattern.stopWords ?? ''"
        @change="set({ stopWords: ($event || null) as StopWordLanguage | null })"
        ><AppOption value="" label="stay" />
        <AppOption
          v-for="one in STOP_WORD_LANGUAGES"
          :key="one"
          :value="one"
          :label="`left out: ${languages.of(one)}`"
        /> </AppSelect
    ></label>
    <label
      ><span>Words at most</span
      ><AppNumber
        :min="1"
        :max="100"
        placeholder="all"
        :model-value="pattern.words"
        @update:model-value="set({ words: $event })"
    /></label>
    <label
      ><span>If a part is empty</span
      ><AppSelect :model-value="pattern.lacking" @change="set({ lacking: $event as NamePattern['lacking'] })"
        ><AppOption value="leave-out" label="skip it" />
        <AppOption value="keep-name" label="keep the current name" /> </AppSelect
    ></label>
  </div>
</template>
