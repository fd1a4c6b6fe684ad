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

/** What holds for a whole name. */
const pattern = defineModel<Omit<NamePattern, 'pieces'>>({ required: true });
function set(change: Partial<NamePattern>) {
  pattern.value = { ...pattern.value, ...change };
}
const value = (event: Event) => (event.target as HTMLInputElement).value;
const SEPARATOR_WORDS: Record<Separator, string> = {
  '-': 'hyphen -',
  _: 'low line _',
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
  keep: 'stay as they are',
};
const languages = new Intl.DisplayNames('en', { type: 'language' });
</script>

<template>
  <div class="form-row" role="group" aria-label="For the whole name">
    <label
      ><span>Between words</span
      ><select :value="pattern.separator" @change="set({ separator: value($event) as Separator })">
        <option v-for="one in SEPARATORS" :key="one" :value="one">{{ SEPARATOR_WORDS[one] }}</option>
      </select></label
    >
    <label
      ><span>Letters</span
      ><select :value="pattern.case" @change="set({ case: value($event) as LetterCase })">
        <option v-for="[one, words] in CASES" :key="one" :value="one">{{ words }}</option>
      </select></label
    >
    <label
      ><span>Accents and scripts</span
      ><select :value="pattern.letters" @change="set({ letters: value($event) as Letters })">
        <option v-for="one in LETTERS" :key="one" :value="one">{{ LETTER_WORDS[one] }}</option>
      </select></label
    >
    <label
      ><span>Small words (the, of)</span
      ><select
        :value="pattern.stopWords ?? ''"
        @change="set({ stopWords: (value($event) || null) as StopWordLanguage | null })"
      >
        <option value="">stay</option>
        <option v-for="one in STOP_WORD_LANGUAGES" :key="one" :value="one">
          left out: {{ languages.of(one) }}
        </option>
      </select></label
    >
    <label
      ><span>Words at most</span
      ><input
        type="number"
        min="1"
        max="100"
        placeholder="all"
        :value="pattern.words ?? ''"
        @input="set({ words: value($event) === '' ? null : Math.max(1, Math.round(Number(value($event)))) })"
    /></label>
    <label
      ><span>Where a piece has nothing</span
      ><select :value="pattern.lacking" @change="set({ lacking: value($event) as NamePattern['lacking'] })">
        <option value="leave-out">leave it out</option>
        <option value="keep-name">keep the present name</option>
      </select></label
    >
  </div>
</template>
