<script setup lang="ts">
import { baseName, folderOf } from '../../core/address/path.ts';
import ItemPicture from './ItemPicture.vue';
import PathText from './PathText.vue';
import type { PlanView } from '../../api/plans.ts';
import { computed } from 'vue';
import { usePlan } from '../stores/plan.ts';
import { FORMAT_NAMES } from '../../core/picture/recipe/describe.ts';
import { count, weight } from './words.ts';
import AppTable, { type Column } from '../kit/AppTable.vue';
import AppButton from '../kit/AppButton.vue';
import AppFold from '../kit/AppFold.vue';

const props = defineProps<{
  plan: PlanView;
  /** Images can be given a frame of their own. */
  framed?: boolean;
}>();
const emit = defineEmits<{ frame: [itemId: number] }>();
type Image = PlanView['images'][number];
const IMAGES: Column<Image>[] = [
  { key: 'path', label: 'Image', mono: true },
  { key: 'before', label: 'Before', width: 210 },
  { key: 'after', label: 'After', width: 210 },
  { key: 'saved', label: 'Size', width: 80, number: true },
];
const FRAMED: Column<Image> = { key: 'act', label: 'Frame', width: 90, silent: true };
/** It writes into pages; other plans let their references follow. */
const written = computed(() => props.plan.kind === 'place' || props.plan.kind === 'describe');
/** That all of them lie in: said once. */
const oneFolder = computed(() => {
  const folders = new Set(props.plan.images.map(({ path }) => folderOf(path)));
  return folders.size === 1 ? [...folders][0] : undefined;
});
const imageText = ({ width, height, bytes, mime }: Image['before']) =>
  `${width} × ${height}, ${FORMAT_NAMES[mime.replace('image/', '') as keyof typeof FORMAT_NAMES] ?? mime.replace('image/', '').toUpperCase()}, ${weight(bytes)}`;
const savedText = (before: number, after: number) =>
  before === 0
    ? ''
    : `${after > before ? '+' : '−'}${Math.abs(Math.round((100 * (after - before)) / before))} %`;
const sumOf = (when: 'before' | 'after') => props.plan.images.reduce((sum, one) => sum + one[when].bytes, 0);
const plans = usePlan();
const undoTogether = ({ entryId }: NonNullable<PlanView['together']>) =>
  plans.propose({ kind: 'undo', entryId, withLater: true });
/** What is too long to be shown whole. */
const more = computed(() =>
  (
    [
      ['clashes', 'conflict', 'conflicts'],
      ['moves', 'move'],
      ['removed', 'item'],
      ['created', 'item'],
      ['settings', 'other change'],
      ['records', 'record'],
      ['pages', 'page'],
      ['changes', 'placement', 'placements'],
    ] as const
  )
    .filter(([key]) => props.plan.more[key] > 0)
    .map(([key, word, many]) => count(props.plan.more[key], `more ${word}`, `more ${many ?? `${word}s`}`)),
);
interface Line {
  key: string;
}
const COLUMNS: Column<Line>[] = [
  { key: 'where', label: 'Where', width: 300 },
  { key: 'change', label: 'From and to', minWidth: 200 },
];
const keyed = <One extends object>(some: readonly One[]): (One & Line)[] =>
  some.map((one, at) => ({ ...one, key: String(at) }));
const settings = computed(() => keyed(props.plan.settings));
const fields = computed(() =>
  keyed(props.plan.records.flatMap(({ path, fields: all }) => all.map((field) => ({ path, ...field })))),
);
const references = computed(() =>
  keyed(props.plan.pages.flatMap(({ page, changes }) => changes.map((change) => ({ page, ...change })))),
);
/** The words of a document change, or the cells and rows of a workbook, not its references. */
const isText = (place: string) => ['text', 'row'].includes(place) || place.startsWith('cell ');
const words = computed(
  () => references.value.length > 0 && references.value.every((one) => isText(one.place)),
);
const whereOf = ({ line, place }: { line: number; place: string }) =>
  place === 'text'
    ? `line ${line}`
    : place === 'row'
      ? `row ${line}`
      : place.startsWith('cell ')
        ? place
        : `line ${line}, ${place}`;
const shortened = computed(() => props.plan.redirects.filter((one) => one.was !== undefined).length);
</script>

<template>
  <div class="proof">
    <div v-if="plan.clashes.length" class="note losing" role="alert">
      <strong>This can’t be done yet.</strong>
      <ul>
        <li v-for="(clash, index) in plan.clashes" :key="index">
          <span class="mono"><PathText :path="clash.path" /></span> {{ clash.why }}
        </li>
      </ul>
      <AppButton v-if="plan.together" @click="undoTogether(plan.together)">
        Undo together with {{ count(plan.together.later, 'later change') }} …
      </AppButton>
    </div>
    <div v-if="plan.warnings.length" class="note">
      <ul>
        <li v-for="(warning, index) in plan.warnings" :key="index">{{ warning }}</li>
      </ul>
    </div>
    <section v-if="plan.images.length">
      <p class="figures">
        Together {{ weight(sumOf('before')) }} before, {{ weight(sumOf('after')) }} after:
        {{ savedText(sumOf('before'), sumOf('after'))
        }}<template v-if="oneFolder !== undefined"
          >. In <PathText class="mono" :path="oneFolder || '/'"
        /></template>
      </p>
      <AppTable
        label="Images before and after"
        :rows="plan.images"
        :columns="framed ? [...IMAGES, FRAMED] : IMAGES"
        :row-key="(one) => one.path"
      >
        <template #path="{ row }"
          ><span class="mono"
            ><PathText :path="oneFolder === undefined ? row.path : baseName(row.path)" /></span
          ><span v-if="row.to" class="mono noted"
            ><ins><PathText :path="baseName(row.to)" /></ins></span
        ></template>
        <template #before="{ row }"
          ><span class="seen"
            ><span v-if="row.before.sha256 && plan.id" class="small"
              ><ItemPicture :sha256="row.before.sha256" kind="image" :name="row.path" /></span
            ><span class="figures">{{ imageText(row.before) }}</span></span
          ></template
        >
        <template #after="{ row }"
          ><span class="seen"
            ><span v-if="row.after.sha256 && plan.id" class="small"
              ><img :src="`/api/plans/${plan.id}/images/${row.after.sha256}`" alt="" loading="lazy" /></span
            ><span class="figures">{{ imageText(row.after) }}</span></span
          ><span v-for="note in row.notes" :key="note" class="soft noted">{{ note }}</span></template
        >
        <template #act="{ row }"
          ><AppButton
            v-if="row.itemId !== undefined"
            look="link"
            :aria-label="`Frame ${baseName(row.path)} by itself`"
            @click="emit('frame', row.itemId)"
            >Frame …</AppButton
          ></template
        >
        <template #saved="{ row }"
          ><span class="figures">{{ savedText(row.before.bytes, row.after.bytes) }}</span></template
        >
      </AppTable>
    </section>
    <ul v-if="plan.seen.length && !plan.images.length" class="pictures" aria-label="Items">
      <li v-for="one in plan.seen" :key="one.id">
        <ItemPicture :sha256="one.sha256" :kind="one.kind" :name="one.path" />
        <span class="mono name" :title="one.path">{{ baseName(one.path) }}</span>
        <span v-if="one.alt" class="soft alt" :title="one.alt">{{ one.alt }}</span>
      </li>
    </ul>
    <dl v-if="plan.moves.length" class="moves">
      <template v-for="move in plan.moves" :key="move.from">
        <dt class="mono">
          <del><PathText :path="move.from" /></del>
        </dt>
        <dd class="mono">
          <ins><PathText :path="move.to" /></ins>
        </dd>
      </template>
    </dl>
    <ul v-if="plan.removed.length" class="paths mono">
      <li v-for="path in plan.removed" :key="path">
        <del><PathText :path="path" /></del>
      </li>
    </ul>
    <ul v-if="plan.created.length" class="paths mono">
      <li v-for="path in plan.created" :key="path">
        <ins><PathText :path="path" /></ins>
      </li>
    </ul>
    <AppTable
      v-if="plan.settings.length"
      label="Settings"
      bare
      :rows="settings"
      :columns="COLUMNS"
      :row-key="(one) => one.key"
    >
      <template #where="{ row: one }">{{ one.what }}</template>
      <template #change="{ row: one }">
        <del v-if="one.before">{{ one.before }}</del> <ins v-if="one.after">{{ one.after }}</ins>
        <span v-else class="soft">{{ one.what === 'Folder' ? '' : 'none' }}</span>
      </template>
    </AppTable>
    <AppTable
      v-if="plan.records.length"
      label="Fields"
      bare
      :rows="fields"
      :columns="COLUMNS"
      :row-key="(one) => one.key"
    >
      <template #where="{ row: one }">
        <span class="mono"><PathText :path="one.path" /></span><br />{{ one.field }}
      </template>
      <template #change="{ row: one }">
        <del v-if="one.before">{{ one.before }}</del> <ins>{{ one.after || '(empty)' }}</ins>
      </template>
    </AppTable>
    <template v-if="plan.pages.length">
      <h3 v-if="!words">
        {{ written ? 'Changes' : 'References updated' }} on {{ count(plan.pages.length, 'page') }}
      </h3>
      <AppTable label="References" bare :rows="references" :columns="COLUMNS" :row-key="(one) => one.key">
        <template #where="{ row: one }">
          <span class="mono"><PathText :path="one.page" /></span><br /><span class="soft figures">{{
            whereOf(one)
          }}</span>
        </template>
        <template #change="{ row: one }">
          <span class="mono"
            ><del>{{ one.oldUrl }}</del
            ><br v-if="one.oldUrl && one.newUrl" /><ins>{{ one.newUrl }}</ins></span
          >
        </template>
      </AppTable>
    </template>
    <p v-else-if="plan.moves.length && !plan.clashes.length" class="soft">
      No page uses it, so no page changes.
    </p>
    <p v-if="more.length" class="soft figures">And {{ more.join(', ') }} not shown.</p>
    <AppFold
      v-if="plan.redirects.length"
      :open="plan.redirects.length === 1"
      :title="`${count(plan.redirects.length, 'redirect')} from old to new addresses${
        shortened ? `, ${count(shortened, 'older redirect')} updated` : ''
      }`"
    >
      <dl class="moves mono">
        <template v-for="one in plan.redirects.slice(0, 100)" :key="one.from">
          <dt>{{ one.from }}</dt>
          <dd>
            <del v-if="one.was">{{ one.was }}</del> <ins>{{ one.to }}</ins>
          </dd>
        </template>
      </dl>
      <p v-if="plan.redirects.length > 100" class="soft">
        The redirects file lists the others when it’s done.
      </p>
    </AppFold>
  </div>
</template>

<style scoped>
.seen {
  display: flex;
  align-items: center;
  gap: 8px;
}
.small {
  width: 56px;
  height: 42px;
  flex: none;
}
.small :deep(img),
.small img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.noted {
  display: block;
}
.proof {
  display: flex;
  max-height: 58vh;
  flex-direction: column;
  gap: 12px;
  overflow: auto;
}
.proof > * {
  flex: none;
}
del {
  color: var(--madder);
}
ins {
  color: var(--verdigris);
  text-decoration: none;
  font-weight: 600;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.pictures {
  display: grid;
  gap: 10px;
  padding: 0;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  list-style: none;
}
.pictures li {
  display: flex;
  min-width: 0;
  flex-direction: column;
  font-size: 12px;
}
.pictures :deep(img),
.pictures :deep(.sign) {
  width: 100%;
  height: 84px;
  object-fit: contain;
  background: var(--paper);
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.alt {
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  line-clamp: 3;
}
.paths {
  padding-left: 0;
  list-style: none;
}
.moves {
  margin: 0;
}
.moves dd {
  margin: 2px 0 8px;
}
.note strong {
  display: block;
}
</style>
