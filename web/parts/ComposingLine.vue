<script setup lang="ts">
import Sortable from 'sortablejs';
import { computed, nextTick, onMounted, onUnmounted, ref } from 'vue';
import { PhPlus } from '@phosphor-icons/vue';
import type { OwnField } from '../../core/describe/fields.ts';
import {
  newPiece,
  PIECE_NAMES,
  pieceInWords,
  type NamePiece,
  type PieceName,
} from '../../core/naming/pattern.ts';
import PieceSettings from './PieceSettings.vue';
import AppButton from '../kit/AppButton.vue';

/** Name parts as blocks in a row, each with what it gives for an example: dragged or moved by keys, clicked to change. */
const props = defineProps<{
  separator: string;
  /** What each piece gives for the example; undefined: there is none. */
  texts?: string[] | undefined;
  own: readonly OwnField[];
}>();
const pieces = defineModel<NamePiece[]>({ required: true });
const chosen = ref<number>();
const adding = ref(false);
const line = ref<HTMLElement>();
const said = ref('');

const offers = computed<[PieceName, string, string][]>(() => [
  ...(Object.keys(PIECE_NAMES) as PieceName[])
    .filter((name) => name !== 'own')
    .map((name): [PieceName, string, string] => [name, PIECE_NAMES[name], '']),
  ...props.own.map((field): [PieceName, string, string] => ['own', field.name, field.name]),
]);

/** Blocks keep their identity while they are moved. */
const keys = new WeakMap<NamePiece, number>();
let next = 0;
function keyOf(piece: NamePiece): number {
  let key = keys.get(piece);
  if (key === undefined) keys.set(piece, (key = next++));
  return key;
}

async function focus(index: number) {
  await nextTick();
  line.value?.querySelectorAll<HTMLButtonElement>('.block > button')[index]?.focus();
}
async function add(name: PieceName, field: string) {
  const at = pieces.value.length;
  pieces.value = [...pieces.value, newPiece(name, field)];
  adding.value = false;
  chosen.value = at;
  said.value = `${PIECE_NAMES[name]} stands at the end.`;
  await nextTick();
  if (name === 'text') line.value?.parentElement?.querySelector<HTMLInputElement>('.settings input')?.focus();
  else await focus(at);
}
function set(index: number, piece: NamePiece) {
  const was = pieces.value[index]!;
  keys.set(piece, keyOf(was));
  pieces.value = pieces.value.map((one, at) => (at === index ? piece : one));
}
async function remove(index: number) {
  const left = pieces.value.filter((_, at) => at !== index);
  pieces.value = left;
  chosen.value = undefined;
  said.value = 'The piece is out.';
  if (left.length > 0) await focus(Math.min(index, left.length - 1));
  else line.value?.querySelector<HTMLButtonElement>('.adding > button')?.focus();
}
async function move(from: number, to: number) {
  if (to < 0 || to >= pieces.value.length) return;
  const all = [...pieces.value];
  all.splice(to, 0, ...all.splice(from, 1));
  pieces.value = all;
  if (chosen.value === from) chosen.value = to;
  else chosen.value = undefined;
  said.value = `At place ${to + 1} of ${all.length}.`;
  await focus(to);
}
function onKey(event: KeyboardEvent, index: number) {
  const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
  if (event.key === 'Delete' || event.key === 'Backspace') void remove(index);
  else if (step !== 0 && event.shiftKey) void move(index, index + step);
  else if (step !== 0) void focus(index + step);
  else return;
  event.preventDefault();
  event.stopPropagation();
}
function away(event: FocusEvent) {
  if (!(event.currentTarget as HTMLElement).contains(event.relatedTarget as Node | null))
    adding.value = false;
}

let sortable: Sortable | undefined;
onMounted(() => {
  sortable = Sortable.create(line.value!, {
    draggable: '.block',
    forceFallback: true,
    fallbackTolerance: 5,
    animation: window.matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 120,
    onEnd({ oldDraggableIndex: from, newDraggableIndex: to, item, from: list }) {
      // The order is the pattern's: the dragged block goes back, and is drawn where it stands now.
      if (from === undefined || to === undefined || from === to) return;
      item.remove();
      list.insertBefore(item, list.querySelectorAll('.block')[from] ?? list.querySelector('.adding'));
      void move(from, to);
    },
  });
});
onUnmounted(() => sortable?.destroy());
</script>

<template>
  <div class="composing">
    <p class="hidden-words" role="status">{{ said }}</p>
    <div ref="line" class="line" role="group" aria-label="Name parts">
      <div v-for="(piece, index) in pieces" :key="keyOf(piece)" class="block">
        <AppButton
          look="tile"
          :aria-expanded="chosen === index"
          aria-keyshortcuts="Delete Shift+ArrowLeft Shift+ArrowRight"
          @click="chosen = chosen === index ? undefined : index"
          @keydown="onKey($event, index)"
          ><span class="what">{{ piece.piece === 'own' ? piece.field : PIECE_NAMES[piece.piece] }}</span>
          <span class="text mono" :class="{ none: texts && !texts[index] }">{{
            texts ? texts[index] || 'nothing' : pieceInWords(piece)
          }}</span>
          <span class="hidden-words">, piece {{ index + 1 }} of {{ pieces.length }}</span>
        </AppButton>
        <span v-if="index < pieces.length - 1" class="between mono" aria-hidden="true">{{ separator }}</span>
      </div>
      <span class="adding" @focusout="away" @keydown.escape.stop="adding = false">
        <AppButton :aria-expanded="adding" @click="adding = !adding"
          ><PhPlus :size="14" weight="bold" aria-hidden="true" /> Add part
        </AppButton>
        <span v-if="adding" class="offers" role="group" aria-label="Pieces">
          <AppButton v-for="[name, words, field] in offers" :key="words" look="tile" @click="add(name, field)"
            >{{ words }}
          </AppButton>
        </span>
      </span>
    </div>
    <PieceSettings
      v-if="chosen !== undefined && pieces[chosen]"
      :key="chosen"
      class="settings"
      :piece="pieces[chosen]!"
      @change="set(chosen, $event)"
      @remove="remove(chosen)"
      @move="move(chosen, chosen + $event)"
    />
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: stretch;
  gap: 6px 0;
}
.block {
  display: flex;
  align-items: stretch;
}
.block > button {
  display: flex;
  max-width: 260px;
  min-height: 46px;
  flex-direction: column;
  justify-content: center;
  padding: 3px 10px;
  border: 1px solid var(--rule-strong);
  border-bottom-width: 3px;
  border-radius: 2px;
  background: var(--paper-raised);
  cursor: grab;
  text-align: left;
}
.block > button[aria-expanded='true'] {
  border-color: var(--verdigris);
  background: var(--verdigris-wash);
}
.what {
  color: var(--ink-soft);
  font-size: 11.5px;
}
.block > button[aria-expanded='true'] .what {
  color: var(--ink);
}
.text {
  max-width: 100%;
  overflow: hidden;
  font-size: 13px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.text.none {
  color: var(--ochre);
  font-family: var(--sans);
  font-style: italic;
}
.between {
  display: grid;
  min-width: 18px;
  place-items: center;
  color: var(--ink-soft);
}
.adding {
  position: relative;
  display: grid;
  margin-left: 10px;
  align-items: center;
}
.adding svg {
  vertical-align: -2px;
}
.offers {
  position: absolute;
  z-index: 5;
  top: calc(100% + 2px);
  left: 0;
  display: grid;
  width: 320px;
  padding: 6px;
  border: 1px solid var(--rule-strong);
  background: var(--paper-raised);
  grid-template-columns: 1fr 1fr;
}
.offers button {
  min-height: 28px;
  padding: 2px 8px;
  border: 0;
  background: none;
  cursor: pointer;
  text-align: left;
}
.offers button:hover {
  background: var(--verdigris-wash);
}
</style>
