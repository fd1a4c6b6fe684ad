<script setup lang="ts">
import { computed } from 'vue';
import { lineRuns } from '../../../core/document/line-changes.ts';
import { count } from '../../parts/words.ts';

/** Two texts, line by line: what went, what came. What is the same is left out but for the lines beside. */
const props = defineProps<{ before: string; after: string; label: string }>();
const NEAR = 2;
interface Shown {
  what: 'same' | 'added' | 'removed' | 'left out';
  line: string;
}
const shown = computed(() => {
  const runs = lineRuns(props.before, props.after);
  return runs.flatMap(({ what, lines }, at): Shown[] => {
    const all = lines.map((line): Shown => ({ what, line }));
    const [head, tail] = [at === 0 ? 0 : NEAR, at === runs.length - 1 ? 0 : NEAR];
    if (what !== 'same' || lines.length <= head + tail + 1) return all;
    return [
      ...all.slice(0, head),
      {
        what: 'left out',
        line: `${count(lines.length - head - tail, 'line')} that ${lines.length - head - tail === 1 ? 'is' : 'are'} the same`,
      },
      ...all.slice(lines.length - tail),
    ];
  });
});
const NAMES = { same: '', added: 'added', removed: 'removed', 'left out': '' };
</script>

<template>
  <ol class="compare" :aria-label="label">
    <li v-for="({ what, line }, at) in shown" :key="at" :class="what.replace(' ', '-')">
      <span class="sign" aria-hidden="true">{{
        what === 'added' ? '+' : what === 'removed' ? '−' : ''
      }}</span>
      <component :is="what === 'added' ? 'ins' : what === 'removed' ? 'del' : 'span'"
        ><span v-if="NAMES[what]" class="hidden-words">{{ NAMES[what] }}: </span>{{ line || ' ' }}</component
      >
    </li>
  </ol>
</template>

<style scoped>
.compare {
  margin: 0;
  padding: 0;
  border: 1px solid var(--rule);
  font: 13px/1.5 var(--mono);
  list-style: none;
  overflow: auto;
}
li {
  display: grid;
  padding: 0 8px;
  grid-template-columns: 1.5em 1fr;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
ins,
del {
  text-decoration: none;
}
.added {
  background: var(--verdigris-wash);
}
.removed {
  background: var(--madder-wash);
  color: var(--madder, inherit);
}
.left-out {
  color: var(--ink-soft);
  font-family: var(--sans);
  font-style: italic;
}
</style>
