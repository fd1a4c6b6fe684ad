<script setup lang="ts">
import { computed } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { excerpt, hits } from '../../../core/find/marks.ts';
import CareMarks from '../../parts/CareMarks.vue';
import ItemPicture from '../../parts/ItemPicture.vue';
import MarkedText from '../../parts/MarkedText.vue';
import { count, STATE_WORDS, USE_WORDS, weight } from '../../parts/words.ts';

/** One image of the contact sheet; without an item it is only the place that it will have. */
const props = defineProps<{
  item: ItemView | undefined;
  index: number;
  width: number;
  height: number;
  open: boolean;
  gathered: boolean;
  current: boolean;
  /** What was searched for. */
  words: readonly string[];
}>();
const emit = defineEmits<{ act: [event: MouseEvent]; tick: [event: MouseEvent] }>();
/** Where it was found, when not in its name. */
const found = computed(() => {
  const { item, words } = props;
  if (!item || words.length === 0 || hits(item.name, words)) return '';
  const { title, alt, caption, description, tags, creator, credit, source } = item.words;
  for (const [of, text] of [
    ['', title],
    ['', alt],
    ['', caption],
    ['', description],
    ['Tag: ', tags.find((tag) => hits(tag, words)) ?? ''],
    ['In ', item.folder],
    ['By ', [creator, credit, source].join(' ').trim()],
  ] as const) {
    const part = excerpt(text, words, 24);
    if (part !== undefined) return of + part;
  }
  return item.excerpt ?? (item.kind === 'document' ? 'In its text' : '');
});
const sizeOf = (item: ItemView) =>
  item.width && item.kind !== 'document' ? `${item.width} × ${item.height}` : weight(item.bytes);
</script>

<template>
  <div class="place" :style="{ width: `${width}px` }">
    <template v-if="item">
      <button
        type="button"
        class="picture"
        :class="{ open, gathered }"
        :data-index="index"
        :data-item="item.id"
        :tabindex="current ? 0 : -1"
        :draggable="gathered"
        :aria-label="`${item.name}, ${item.words.alt || 'no alt text'}, ${item.state === 'here' ? USE_WORDS[item.use] : STATE_WORDS[item.state]}${gathered ? ', gathered' : ''}`"
        :aria-pressed="open"
        :style="{ height: `${height}px` }"
        :title="`${item.path}\n${weight(item.bytes)}${item.width ? `, ${item.width} × ${item.height} px` : ''}, ${count(item.placements, 'placement')}`"
        @click="emit('act', $event)"
        @dragstart="$event.dataTransfer?.setData('application/x-iconomos-tray', '')"
      >
        <ItemPicture
          :sha256="item.sha256"
          :kind="item.kind"
          :name="item.name"
          :placeholder="item.placeholder"
        />
      </button>
      <label class="tick" :class="{ on: gathered }" @pointerdown.stop>
        <input
          type="checkbox"
          :checked="gathered"
          tabindex="-1"
          :aria-label="`Add ${item.name} to tray`"
          @click="emit('tick', $event)"
        />
      </label>
      <div class="words">
        <span class="mono name"><MarkedText :text="item.name" :words="words" /></span>
        <span class="line figures soft"
          ><CareMarks :marks="item.marks" />
          <span
            ><template v-if="item.state !== 'here'"
              >{{ item.state === 'draft' ? 'draft' : STATE_WORDS[item.state] }}, </template
            >{{ sizeOf(item) }}<template v-if="item.sizes">, +{{ count(item.sizes, 'size') }}</template></span
          ></span
        >
        <span v-if="words.length" class="found soft" :title="found"
          ><MarkedText :text="found" :words="words"
        /></span>
      </div>
    </template>
    <div v-else class="waiting" :style="{ height: `${height}px` }"></div>
  </div>
</template>

<style scoped>
.place {
  position: relative;
  flex: none;
  contain: layout style;
}
.picture {
  display: block;
  width: 100%;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.waiting {
  background: var(--paper-sunk);
}
.picture.open {
  outline: 3px solid var(--verdigris);
  outline-offset: 1px;
}
.picture.gathered {
  box-shadow: 0 0 0 3px var(--verdigris);
}
.tick {
  position: absolute;
  top: 0;
  left: 0;
  display: none;
  width: 28px;
  height: 28px;
  place-items: center;
}
.tick input {
  width: 18px;
  height: 18px;
  margin: 0;
  accent-color: var(--verdigris);
}
.place:hover .tick,
.place:focus-within .tick,
.tick.on {
  display: grid;
}
.words {
  padding-top: 3px;
}
.found {
  display: block;
  overflow: hidden;
  font-size: 11.5px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name {
  display: block;
  overflow: hidden;
  font-size: 11.5px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  font-size: 11.5px;
  gap: 6px;
}
.line > :last-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
