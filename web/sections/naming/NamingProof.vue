<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { diffChars } from 'diff';
import { computed, nextTick, ref } from 'vue';
import type { NamingTable } from '../../../api/naming.ts';
import { NAME_FAULT_TEXTS, nameFaults } from '../../../core/address/name.ts';
import { baseName, extensionOf, folderOf, stemOf } from '../../../core/address/path.ts';
import type { NamingFacts } from '../../../core/naming/compose.ts';
import type { NewName } from '../../../core/naming/names.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count } from '../../parts/words.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';

/** Old names struck, new ones beside, what differs marked; what needs a look stands first. */
const props = defineProps<{
  rows: readonly number[];
  facts: ReadonlyMap<number, NamingFacts>;
  table: NamingTable;
  names: ReadonlyMap<number, NewName>;
  pending: boolean;
  typed: ReadonlyMap<number, string>;
  nameOf: (id: number) => string;
  example: number;
}>();
const emit = defineEmits<{ example: [id: number]; type: [id: number, stem: string | undefined] }>();

const items = computed(() => new Map(props.table.items.map((item) => [item.id, item])));
const first = ref(true);
/** What the person wrote stays at the top too. */
const LEVELS = { faulty: 0, typed: 0, kept: 1, cut: 2, numbered: 2 } as Record<string, number>;
const levelOf = (id: number) => {
  const one = props.names.get(id);
  if (!one) return 9;
  const worst = Math.min(9, ...one.notes.map((note) => LEVELS[note] ?? 9));
  if (one.lacks.length > 0) return Math.min(worst, 3);
  return Math.min(worst, one.from !== one.to && nameFaults(baseName(one.to)).length > 0 ? 4 : 9);
};
const sorted = computed(() => {
  if (!first.value) return props.rows;
  const levels = new Map(props.rows.map((id) => [id, levelOf(id)]));
  return [...props.rows].sort((a, b) => levels.get(a)! - levels.get(b)!);
});
const toLookAt = computed(() => props.rows.filter((id) => levelOf(id) < 9).length);

function sayings(one: NewName | undefined): string[] {
  if (!one) return [];
  const said: string[] = [];
  if (one.fault) said.push(one.fault);
  if (one.notes.includes('kept') && !one.notes.includes('follows'))
    said.push(
      one.lacks.length > 0 ? 'Name unchanged.' : 'The pattern gives no name here, so the name stays.',
    );
  if (one.lacks.length > 0) said.push(`It has no ${one.lacks.join(', no ')}.`);
  if (one.notes.includes('cut')) said.push('Shortened: it was too long.');
  if (one.notes.includes('numbered'))
    said.push(`Numbered, as ${baseName(one.takenBy!)} has or gets this name.`);
  if (one.notes.includes('follows')) said.push('Size of another image: named after it.');
  if (one.notes.includes('typed') && !one.fault) said.push('Your own name.');
  if (one.from !== one.to && !one.notes.includes('follows'))
    said.push(...nameFaults(baseName(one.to)).map((fault) => NAME_FAULT_TEXTS[fault]));
  return said;
}

const LINE = 52;
const scroller = ref<HTMLElement>();
const virtual = useVirtualizer(
  computed(() => ({
    count: sorted.value.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: () => LINE,
    overscan: 6,
    getItemKey: (index: number) => sorted.value[index]!,
  })),
);
const lines = computed(() =>
  virtual.value.getVirtualItems().map((line) => {
    const id = sorted.value[line.index]!;
    const { path } = props.facts.get(id)!;
    const to = props.nameOf(id);
    const from = baseName(path);
    return {
      id,
      top: line.start,
      from,
      folder: folderOf(path),
      to,
      parts: from === to ? [] : diffChars(from, to),
      said: sayings(props.names.get(id)),
      look: levelOf(id) < 3 && !props.names.get(id)?.notes.every((note) => note === 'typed'),
      kind: props.facts.get(id)!.kind,
      placements: items.value.get(id)!.placements,
    };
  }),
);

const writing = ref<{ id: number; stem: string }>();
async function write(id: number) {
  writing.value = { id, stem: stemOf(props.nameOf(id)) };
  await nextTick();
  scroller.value?.querySelector<HTMLInputElement>('.new input')?.select();
}
async function written(go: 0 | 1 = 0) {
  const one = writing.value;
  writing.value = undefined;
  if (!one) return;
  if (one.stem !== stemOf(props.nameOf(one.id))) emit('type', one.id, one.stem);
  const at = sorted.value.indexOf(one.id) + go;
  await nextTick();
  const next = sorted.value[at];
  if (next !== undefined)
    scroller.value?.querySelector<HTMLElement>(`[data-id="${next}"] .new button`)?.focus();
}
</script>

<template>
  <div class="heading">
    <h2>Proof</h2>
    <AppCheckbox v-if="toLookAt" v-model="first" class="soft">
      {{ count(toLookAt, 'name') }} to check, first</AppCheckbox
    >
    <span v-else class="soft">{{ pending ? '' : 'No conflicts, nothing missing.' }}</span>
  </div>
  <div ref="scroller" class="proof" tabindex="-1">
    <ul :style="{ height: `${virtual.getTotalSize()}px` }" aria-label="New names">
      <li
        v-for="line in lines"
        :key="line.id"
        :data-id="line.id"
        :class="{ example: line.id === example, look: line.look }"
        :style="{ transform: `translateY(${line.top}px)` }"
        @focusin="emit('example', line.id)"
        @click="emit('example', line.id)"
      >
        <span class="picture"
          ><ItemPicture :sha256="items.get(line.id)!.sha256" :kind="line.kind" :name="line.from"
        /></span>
        <span class="old mono">
          <span class="soft where">{{ line.folder || '/' }}</span>
          <span v-if="line.from === line.to">{{ line.from }}</span>
          <del v-else
            ><template v-for="(part, index) in line.parts" :key="index"
              ><mark v-if="part.removed">{{ part.value }}</mark
              ><template v-else-if="!part.added">{{ part.value }}</template></template
            ></del
          >
        </span>
        <span class="new mono">
          <span v-if="writing?.id === line.id" class="write">
            <AppInput
              v-model="writing.stem"
              :aria-label="`New name of ${line.from}`"
              spellcheck="false"
              @keydown.enter.prevent="written(1)"
              @keydown.escape.stop="writing = undefined"
              @blur="written()"
            />{{ extensionOf(line.from) }}
          </span>
          <AppButton v-else look="tile" :title="`Write another name for ${line.from}`" @click="write(line.id)"
            ><span v-if="line.from === line.to" class="soft">stays</span>
            <ins v-else
              ><template v-for="(part, index) in line.parts" :key="index"
                ><mark v-if="part.added">{{ part.value }}</mark
                ><template v-else-if="!part.removed">{{ part.value }}</template></template
              ></ins
            >
          </AppButton>
          <AppButton
            v-if="typed.has(line.id)"
            look="link"
            class="back"
            @click="emit('type', line.id, undefined)"
          >
            Use the pattern
          </AppButton>
        </span>
        <span class="said">{{ line.said.join(' ') }}</span>
        <span class="figures margin soft">{{
          line.placements ? count(line.placements, 'placement') : ''
        }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.heading {
  display: flex;
  align-items: baseline;
  padding: 10px 24px 6px;
  gap: 16px;
}
.heading label {
  font-size: 13px;
}
.proof {
  min-height: 0;
  flex: 1;
  overflow: auto;
  padding: 0 24px;
}
ul {
  position: relative;
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  position: absolute;
  top: 0;
  left: 0;
  display: grid;
  width: 100%;
  height: 52px;
  align-items: center;
  border-bottom: 1px solid var(--rule);
  gap: 14px;
  grid-template-columns: 56px minmax(0, 1fr) minmax(0, 1.15fr) minmax(0, 1fr) 96px;
}
li.example {
  background: var(--paper-raised);
  box-shadow: inset 3px 0 0 var(--verdigris);
}
.picture {
  height: 44px;
  padding-left: 6px;
}
.old,
.new {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.where {
  display: block;
  overflow: hidden;
  font-size: 11.5px;
  text-overflow: ellipsis;
}
del {
  color: var(--madder);
  text-decoration-thickness: 1px;
}
ins {
  color: var(--verdigris);
  font-weight: 600;
  text-decoration: none;
}
mark {
  background: none;
  color: inherit;
}
del mark {
  background: var(--madder-wash);
}
ins mark {
  background: var(--verdigris-wash);
}
.new button:first-child {
  max-width: 100%;
  min-height: 28px;
  padding: 0 4px;
  border: 1px solid transparent;
  overflow: hidden;
  background: none;
  cursor: text;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.new button:first-child:hover {
  border-color: var(--rule-strong);
}
.back {
  font-family: var(--sans);
}
.said {
  display: -webkit-box;
  overflow: hidden;
  color: var(--ink-soft);
  font-size: 12.5px;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-height: 1.3;
}
.margin {
  padding-right: 8px;
  font-size: 12.5px;
  text-align: right;
}
li.look .said {
  color: var(--ochre);
}
@media (width <= 760px) {
  .heading,
  .proof {
    padding-right: 12px;
    padding-left: 12px;
  }
  /* Old above new. */
  li {
    gap: 0 8px;
    grid-template: auto auto / 48px minmax(0, 1fr) 38%;
  }
  .picture {
    grid-row: 1 / 3;
  }
  .where,
  .margin {
    display: none;
  }
  .new {
    grid-row: 2;
    grid-column: 2;
  }
  .said {
    grid-row: 1 / 3;
    grid-column: 3;
  }
}
</style>
