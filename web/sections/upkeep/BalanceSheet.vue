<script setup lang="ts">
import { computed } from 'vue';
import type { Overview } from '../../../api/upkeep.ts';
import { writeQuery, type Condition } from '../../../core/find/query.ts';
import { CHECKS, type CheckName } from '../../../core/upkeep/checks.ts';
import { count, dayOf, moment, weight } from '../../parts/words.ts';
import WeightCharts from './WeightCharts.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';

/** The library as a balance: what is in good order and what needs care, line by line; each line is a door. */
const props = defineProps<{ overview: Overview }>();
const emit = defineEmits<{ looked: [] }>();

const found = (name: CheckName) => props.overview.checks.find((one) => one.name === name)!;
type Mark = 'described' | 'named' | 'filed' | 'placed';
/** The items of which any of some things holds. */
const items = (...of: Condition[]) => ({
  name: 'library',
  query:
    of.length === 0 ? {} : { where: writeQuery({ join: of.length === 1 ? 'all' : 'any', not: false, of }) },
});
const opposite = (one: Condition): Condition => ({ ...one, not: !one.not });
/** Where bytes can be freed. */
const FREEABLE = items(
  { test: 'use', value: 'unused', not: false },
  { test: 'copies', value: '', not: false },
  { test: 'found', value: 'too-large', not: false },
);
interface Line {
  word: string;
  good: number;
  of: number;
  /** What an item must be to be in good order. */
  test: Condition;
  needs: { words: string; to: object }[];
  history: Share[];
}
/** Of all items, on a day. */
interface Share {
  day: string;
  share: number;
}
const shareOf = ({ day, items }: Overview['history'][number], good: number): Share => ({
  day,
  share: items === 0 ? 1 : good / items,
});
const lines = computed<Line[]>(() => {
  const { care, history } = props.overview;
  const door = (name: CheckName, one: string, many = one) => {
    const number = found(name).found;
    const words = `${number.toLocaleString('en')} ${number === 1 ? one : many}`;
    return number > 0 ? [{ words, to: { query: { queue: name } } }] : [];
  };
  const mark = (word: string, name: Mark, needs: Line['needs']): Line => ({
    word,
    good: care[name],
    of: care.items,
    test: { test: 'mark', value: name, not: false },
    needs,
    history: history.map((one) => shareOf(one, one[name])),
  });
  const rest = (word: string, line: keyof Overview['care']['troubled'], needs: Line['needs']): Line => ({
    word,
    good: care.items - care.troubled[line],
    of: care.items,
    test: { test: 'found', value: line, not: true },
    needs,
    history: history.flatMap((one) => (one.troubled ? [shareOf(one, one.items - one.troubled[line])] : [])),
  });
  return [
    mark('Described', 'described', [
      ...door('no-alt', 'without alt text'),
      ...door('no-title', 'without title'),
      ...door('poor-alt', 'described poorly'),
    ]),
    mark('Named', 'named', door('names', 'poor name', 'poor names')),
    mark('Filed', 'filed', [
      ...door('no-folder', 'outside any folder'),
      ...(care.filed < care.items
        ? [
            {
              words: `${(care.items - care.filed).toLocaleString('en')} without tag or folder`,
              to: items({ test: 'mark', value: 'filed', not: true }),
            },
          ]
        : []),
    ]),
    mark('Placed', 'placed', [...door('unused', 'unused'), ...door('mentioned', 'mentioned only')]),
    rest('No duplicates', 'doubles', [
      ...door('copies', 'copy', 'copies'),
      ...door('look-alikes', 'look-alike', 'look-alikes'),
    ]),
    rest('File size', 'weight', [
      ...door('too-large', 'oversized'),
      ...door('format', 'wrong format'),
      ...door('no-sizes', 'no responsive sizes'),
      ...door('heavy-film', 'large video', 'large videos'),
      ...door('heavy-pdf', 'large PDF', 'large PDFs'),
    ]),
    rest('Rights', 'rights', [
      ...door('licence-over', 'over'),
      ...door('licence-ending', 'ending'),
      ...door('uncredited', 'credit not shown', 'credits not shown'),
      ...door('editorial', 'editorial for sale'),
      ...door('no-licence', 'without licence'),
      ...door('no-credit', 'without credit'),
    ]),
    rest('Files', 'files', [
      ...door('unreadable', 'unreadable'),
      ...door('other-type', 'type mismatch'),
      ...door('private', 'with location data'),
      ...door('outside', 'changed by others'),
      ...door('missing', 'without file'),
    ]),
  ];
});
/** What to do first: what is certain and what visitors meet comes before what is a matter of taste. */
const FIRST: CheckName[] = [
  'broken',
  'licence-over',
  'unreadable',
  'no-alt',
  'copies',
  'unused',
  'too-large',
  'names',
];
const next = computed(() => FIRST.map(found).find((one) => one.found > 0));
const share = (good: number, of: number) => (of === 0 ? 100 : (100 * good) / of);
const inWords = (good: number, of: number) => `${share(good, of).toFixed(good === of ? 0 : 1)} %`;
/** Days lie as far apart as they are. */
const path = (days: readonly Share[]) => {
  const at = days.map(({ day }) => Date.parse(day));
  const [first, last] = [at[0]!, at.at(-1)!];
  return days
    .map(
      ({ share: one }, i) =>
        `${i === 0 ? 'M' : 'L'}${((60 * (at[i]! - first)) / Math.max(1, last - first)).toFixed(1)} ${(17 - 16 * one).toFixed(1)}`,
    )
    .join('');
};
/** What the line shows, in words. */
const course = (days: readonly Share[]) => {
  const [first, last] = [days[0]!, days.at(-1)!];
  return `from ${percent(first.share)} on ${dayOf(first.day)} to ${percent(last.share)} on ${dayOf(last.day)}`;
};
const percent = (one: number) => `${(100 * one).toFixed(one === 1 ? 0 : 1)} %`;
const fresh = computed(() => props.overview.checks.reduce((sum, one) => sum + one.fresh, 0));

interface Account {
  word: string;
  /** None for references, of which no share is counted. */
  line: Line | undefined;
  needs: Line['needs'];
}
const accounts = computed<Account[]>(() => {
  const broken = found('broken').found;
  return [
    ...lines.value.map((line) => ({ word: line.word, line, needs: line.needs })),
    {
      word: 'References',
      line: undefined,
      needs: broken ? [{ words: count(broken, 'broken reference'), to: { query: { queue: 'broken' } } }] : [],
    },
  ];
});
const COLUMNS: Column<Account>[] = [
  { key: 'word', label: 'Matter', width: 124, silent: true },
  { key: 'good', label: 'In order', width: 84, number: true },
  { key: 'share', label: 'Share', width: 176 },
  { key: 'course', label: 'Over time', width: 100 },
  { key: 'issues', label: 'Issues', width: 76, number: true },
  { key: 'details', label: 'Details', minWidth: 220 },
];
</script>

<template>
  <section aria-labelledby="balance">
    <div class="top">
      <div>
        <h2 id="balance" class="figures">
          <RouterLink :to="items()">{{ count(overview.care.items, 'item') }}</RouterLink>,
          {{ weight(overview.care.bytes) }};
          <RouterLink :to="FREEABLE">{{ weight(overview.freeable) }} can be freed</RouterLink>
        </h2>
        <p v-if="next" class="next">
          Next:
          <RouterLink :to="{ query: { queue: next.name } }"
            >{{ CHECKS[next.name].name.toLowerCase() }}, {{ next.found.toLocaleString('en') }}</RouterLink
          >.
          <span class="soft">{{ CHECKS[next.name].why }}</span>
        </p>
        <p v-else class="next">Nothing to do. The library is in good order.</p>
      </div>
      <p class="since soft figures">
        <template v-if="overview.lastLook">
          Since you looked, {{ moment(overview.lastLook) }}: {{ count(fresh, 'new finding') }},
          <RouterLink to="/ledger">{{ count(overview.entriesSince, 'change') }}</RouterLink>.
        </template>
        <AppButton look="link" @click="emit('looked')"
          >{{ overview.lastLook ? 'Mark as seen' : 'Count new findings from now on' }}
        </AppButton>
      </p>
    </div>
    <AppTable
      class="balance"
      label="How the library stands"
      :rows="accounts"
      :columns="COLUMNS"
      :row-key="(row) => row.word"
    >
      <template #word="{ row }"
        ><strong>{{ row.word }}</strong></template
      >
      <template #good="{ row: { line, word } }">
        <RouterLink v-if="line" :to="items(line.test)" :aria-label="`${word}, in order: ${line.good}`">{{
          line.good.toLocaleString('en')
        }}</RouterLink>
      </template>
      <template #share="{ row: { line } }">
        <template v-if="line"
          ><span class="bar" aria-hidden="true"
            ><span :style="{ width: `${share(line.good, line.of)}%` }"></span
          ></span>
          <span class="figures">{{ inWords(line.good, line.of) }}</span></template
        >
      </template>
      <template #course="{ row: { line, word } }">
        <svg
          v-if="line && line.history.length > 1"
          width="62"
          height="18"
          viewBox="-1 0 62 18"
          role="img"
          :aria-label="course(line.history)"
        >
          <title>{{ course(line.history) }}</title>
          <path :d="path(line.history)" />
        </svg>
        <span v-else-if="word === lines[0]?.word" class="soft">since today</span>
      </template>
      <template #issues="{ row: { line, word } }">
        <RouterLink
          v-if="line && line.of > line.good"
          :to="items(opposite(line.test))"
          :aria-label="`${word}, issues: ${line.of - line.good}`"
          >{{ (line.of - line.good).toLocaleString('en') }}</RouterLink
        >
        <template v-else>{{ line ? 0 : found('broken').found.toLocaleString('en') }}</template>
      </template>
      <template #details="{ row: { needs } }">
        <div class="doors">
          <RouterLink v-for="one in needs" :key="one.words" class="figures" :to="one.to">{{
            one.words
          }}</RouterLink>
          <span v-if="needs.length === 0" class="soft">–</span>
        </div>
      </template>
    </AppTable>
    <WeightCharts :overview="overview" />
  </section>
</template>

<style scoped>
.top {
  display: flex;
  justify-content: space-between;
  gap: 24px;
  margin-bottom: 10px;
}
.top p {
  margin: 2px 0 0;
}
.next {
  max-width: 62ch;
}
.since {
  max-width: 34ch;
  text-align: right;
}
.balance {
  border-top: 2px solid var(--ink);
  border-bottom: 2px solid var(--ink);
}
.balance :deep(.el-table__cell) {
  padding: 1px 0;
  vertical-align: middle;
  white-space: nowrap;
}
/* The line between the two sides of the account. */
.balance :deep(.el-table__cell:nth-child(5)) {
  border-left: 1px solid var(--rule-strong);
}
.bar {
  display: inline-block;
  width: 92px;
  height: 8px;
  margin-right: 8px;
  border: 1px solid var(--rule-strong);
  background: var(--ochre-wash);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--verdigris);
}
.doors {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  line-height: 24px;
}
svg path {
  fill: none;
  stroke: var(--verdigris);
  stroke-width: 1.5;
}
</style>
