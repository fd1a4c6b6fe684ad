<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { altFindings, type Severity } from '../../../core/describe/alt.ts';
import { needsAlt } from '../../../core/describe/record.ts';
import type { Words } from '../../../core/describe/fields.ts';
import type { PlacementContextView } from '../../../api/items.ts';
import { api } from '../../api/client.ts';

/** Notes in the margin of the alt text, as a proof-reader writes them: what is wrong, and what to do. */
const props = defineProps<{
  id: number;
  path: string;
  words: Words;
  contexts: readonly PlacementContextView[];
  textInside: string;
}>();
const sameAlt = ref<string[]>([]);
let timer: ReturnType<typeof setTimeout> | undefined;
watch(
  () => props.words.alt.trim(),
  (alt) => {
    clearTimeout(timer);
    sameAlt.value = [];
    if (alt !== '')
      timer = setTimeout(async () => {
        const found = await api.sameAlt(alt, props.id);
        if (props.words.alt.trim() === alt) sameAlt.value = found;
      }, 300);
  },
  { immediate: true },
);
const needed = computed(() => needsAlt({ path: props.path, kind: 'image' }));
const findings = computed(() =>
  needed.value
    ? altFindings({
        path: props.path,
        words: props.words,
        contexts: props.contexts,
        sameAlt: sameAlt.value,
        textInside: props.textInside,
      })
    : [],
);
const SIGNS: Record<Severity, string> = { fault: '●', doubt: '◐', hint: '○' };
const SIGN_WORDS: Record<Severity, string> = {
  fault: 'Needs fixing',
  doubt: 'Check',
  hint: 'Could be better',
};
</script>

<template>
  <ul class="notes" aria-label="Notes on the alt text" aria-live="polite">
    <li v-for="one in findings" :key="one.rule" :class="one.severity">
      <span class="sign" :title="SIGN_WORDS[one.severity]"
        >{{ SIGNS[one.severity] }}<span class="hidden-words">{{ SIGN_WORDS[one.severity] }}: </span></span
      >
      <span
        >{{ one.says }} <span class="soft">{{ one.remedy }}</span></span
      >
    </li>
    <li v-if="!needed" class="soft">Browsers show it next to the address. It needs no alt text.</li>
    <li v-else-if="findings.length === 0" class="fine"><span class="sign">✓</span> Looks good.</li>
  </ul>
</template>

<style scoped>
.notes {
  padding: 0;
  margin: 0;
  font-size: 13px;
  line-height: 1.35;
  list-style: none;
}
li {
  display: grid;
  padding: 3px 0;
  grid-template-columns: 20px 1fr;
}
.fault .sign {
  color: var(--madder);
}
.doubt .sign,
.hint .sign {
  color: var(--ochre);
}
.fine {
  color: var(--verdigris);
}
</style>
