<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter, type RouteLocationRaw } from 'vue-router';
import type { ItemView, Suggestions } from '../../api/items.ts';
import { baseName } from '../../core/address/path.ts';
import { writeQuery } from '../../core/find/query.ts';
import type { TestName } from '../../core/find/tests.ts';
import { api, sentenceOf } from '../api/client.ts';
import ItemPicture from './ItemPicture.vue';
import MarkedText from './MarkedText.vue';
import { count } from './words.ts';
import AppInput from '../kit/AppInput.vue';

/** The one search box: while a person types it offers items, folders, tags and people; Enter shows all in the Library. */
const route = useRoute();
const router = useRouter();
const text = ref('');
const found = ref<Suggestions>();
const fault = ref('');
const open = ref(false);
/** The offer that the keys are on; -1: the box itself. */
const at = ref(-1);
watch(
  () => route.query['q'],
  (q) => (text.value = typeof q === 'string' ? q : ''),
  { immediate: true },
);
const words = computed(() => text.value.split(/\s+/).filter(Boolean));

let timer: ReturnType<typeof setTimeout> | undefined;
let asked = 0;
function typed() {
  open.value = true;
  at.value = -1;
  clearTimeout(timer);
  timer = setTimeout(() => void look(), 120);
}
async function look() {
  const mine = ++asked;
  if (words.value.length === 0) {
    found.value = undefined;
    return;
  }
  try {
    const next = await api.suggestions(text.value);
    if (mine !== asked) return;
    found.value = next;
    fault.value = '';
  } catch (error) {
    if (mine === asked) fault.value = sentenceOf(error);
  }
}

interface Offer {
  key: string;
  group: string;
  item?: ItemView;
  name: string;
  more: string;
  to: RouteLocationRaw;
}
const where = (test: TestName, value: string) =>
  writeQuery({ join: 'all', not: false, of: [{ test, value, not: false }] });
const library = (query: Record<string, string | undefined>) => ({ name: 'library', query });
const all = computed(() =>
  library({
    ...(route.name === 'library' ? { ...route.query, item: undefined } : {}),
    q: text.value || undefined,
  } as Record<string, string | undefined>),
);
const offers = computed<Offer[]>(() => {
  const { items = [], folders = [], tags = [], people = [], total = 0 } = found.value ?? {};
  return [
    ...items.map((item) => ({
      key: `item ${item.id}`,
      group: 'Items',
      item,
      name: item.name,
      more: item.words.title || item.words.alt || item.folder,
      to: library({ q: text.value, item: String(item.id) }),
    })),
    ...(total > 0
      ? [
          {
            key: 'all',
            group: 'Items',
            name: '',
            more: `Show ${count(total, 'item')} with these words`,
            to: library({ q: text.value }),
          },
        ]
      : []),
    ...folders.map(({ folder, items: number }) => ({
      key: `folder ${folder}`,
      group: 'Folders',
      name: baseName(folder),
      more: `${folder}, ${count(number, 'item')}`,
      to: library({ folder }),
    })),
    ...tags.map((tag) => ({
      key: `tag ${tag.name}`,
      group: 'Tags',
      name: tag.name,
      more: count(tag.items, 'item'),
      to: library({ where: where('tag', tag.name) }),
    })),
    ...people.map((person) => ({
      key: `person ${person}`,
      group: 'People',
      name: person,
      more: 'added by them',
      to: library({ where: where('by', person) }),
    })),
  ];
});
const box = ref<HTMLElement>();
function take(offer: Offer | undefined) {
  open.value = false;
  void router.push(offer?.to ?? all.value);
}
function onKey(event: KeyboardEvent) {
  if (event.key === 'Escape') {
    // The first Escape closes the offers, and nothing behind them.
    if (open.value) event.stopPropagation();
    open.value = false;
    return;
  }
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step || offers.value.length === 0) return;
  event.preventDefault();
  open.value = true;
  at.value = Math.max(-1, Math.min(offers.value.length - 1, at.value + step));
  box.value?.querySelector(`#find-offer-${at.value}`)?.scrollIntoView({ block: 'nearest' });
}
function left(event: FocusEvent) {
  if (!box.value?.contains(event.relatedTarget as Node | null)) open.value = false;
}
</script>

<template>
  <form ref="box" class="find" role="search" @submit.prevent="take(offers[at])" @focusout="left">
    <label class="hidden-words" for="find">Find items</label>
    <AppInput
      id="find"
      v-model="text"
      type="search"
      autocomplete="off"
      role="combobox"
      aria-autocomplete="list"
      aria-controls="find-offers"
      :aria-expanded="open && offers.length > 0"
      :aria-activedescendant="open && at >= 0 ? `find-offer-${at}` : undefined"
      placeholder="Find items, folders, tags, people …"
      @input="typed"
      @keydown="onKey"
    />
    <p v-if="open && fault" class="offers note losing">{{ fault }}</p>
    <div
      v-show="open && offers.length > 0 && !fault"
      id="find-offers"
      class="offers"
      role="listbox"
      aria-label="What fits"
    >
      <template v-for="(offer, index) in offers" :key="offer.key">
        <div v-if="offer.group !== offers[index - 1]?.group" class="group" role="presentation">
          {{ offer.group }}
        </div>
        <!-- mousedown: the box keeps the focus until the offer is taken. -->
        <div
          :id="`find-offer-${index}`"
          class="offer"
          role="option"
          :aria-selected="index === at"
          @mousedown.prevent
          @click="take(offer)"
        >
          <span v-if="offer.item" class="picture"
            ><ItemPicture
              :sha256="offer.item.sha256"
              :kind="offer.item.kind"
              :name="offer.item.name"
              :placeholder="offer.item.placeholder"
          /></span>
          <span :class="{ mono: offer.item || offer.group === 'Folders' }"
            ><MarkedText :text="offer.name" :words="words"
          /></span>
          <span class="soft more"><MarkedText :text="offer.more" :words="offer.name ? words : []" /></span>
        </div>
      </template>
    </div>
    <p class="hidden-words" role="status">
      {{ open && words.length ? count(offers.length, 'suggestion') : '' }}
    </p>
  </form>
</template>

<style scoped>
.find {
  position: relative;
  max-width: 440px;
  flex: 1;
}
@media (width <= 760px) {
  .find {
    order: 3;
    min-width: 220px;
    max-width: none;
  }
  .offers {
    width: 100%;
  }
}
.offers {
  position: absolute;
  z-index: 12;
  top: calc(100% + 4px);
  left: 0;
  width: max(100%, 520px);
  max-height: 74vh;
  padding: 4px 0 8px;
  border: 1px solid var(--rule-strong);
  background: var(--paper-raised);
  overflow: auto;
}
.group {
  padding: 8px 12px 2px;
  color: var(--ink-soft);
  font-size: 12.5px;
  font-weight: 650;
}
.offer {
  display: flex;
  min-height: 30px;
  align-items: center;
  padding: 2px 12px;
  cursor: pointer;
  gap: 10px;
  white-space: nowrap;
}
.offer:hover,
.offer[aria-selected='true'] {
  background: var(--verdigris-wash);
}
.offer[aria-selected='true'] {
  box-shadow: inset 3px 0 0 var(--verdigris);
}
.picture {
  width: 40px;
  height: 30px;
  flex: none;
}
.more {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
