<script setup lang="ts">
import { computed } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { DoubleGroup } from '../../../api/upkeep.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count, USE_WORDS, weight } from '../../parts/words.ts';

/** One of a group of doubles; what differs from the one that stays is dark, the rest is soft. */
const props = defineProps<{
  member: DoubleGroup['members'][number];
  keeper: ItemView | undefined;
  /** Names the choice within its group. */
  group: number;
  reason: string;
  leftOut: boolean;
}>();
const emit = defineEmits<{ keep: []; leave: []; open: [] }>();

const stays = computed(() => props.keeper?.id === props.member.item.id);
interface Fact {
  name: string;
  text: string;
  differs: boolean;
}
const facts = computed<Fact[]>(() => {
  const { item, pages, mentions, sizes } = props.member;
  const { keeper } = props;
  const differs = (of: (one: ItemView) => unknown) =>
    keeper !== undefined && !stays.value && of(keeper) !== of(item);
  const pixels = (one: ItemView) => (one.width ? `${one.width} × ${one.height} px` : '');
  const day = (one: ItemView) => one.addedAt.slice(0, 10);
  const words = (one: ItemView) => one.words.alt || one.words.title;
  const found: Fact[] = [
    { name: 'Pixels', text: pixels(item), differs: differs(pixels) },
    { name: 'Weight', text: weight(item.bytes), differs: differs((one) => one.bytes) },
    { name: 'Came', text: day(item), differs: differs(day) },
    { name: 'Words', text: words(item) ? `“${words(item)}”` : 'none', differs: differs(words) },
    {
      name: 'Tags',
      text: item.words.tags.join(', ') || 'none',
      differs: differs((one) => one.words.tags.join()),
    },
    {
      name: 'Use',
      text:
        item.use === 'placed'
          ? `placed ${item.placements === 1 ? 'once' : count(item.placements, 'time')}${pages.length ? `: ${pages.join('; ')}` : ''}`
          : USE_WORDS[item.use],
      differs: true,
    },
    ...(mentions ? [{ name: 'Named in', text: count(mentions, 'text'), differs: true }] : []),
    ...(sizes ? [{ name: 'Sizes', text: `${sizes} belong to it`, differs: false }] : []),
  ];
  return found.filter((fact) => fact.text !== '');
});
const RELATION_WORDS = {
  're-encoded': 'encoded anew',
  resized: 'another size',
  cropped: 'a part of it',
  edited: 'edited',
  turned: 'turned or mirrored',
};
</script>

<template>
  <article :class="{ stays }">
    <button class="picture" type="button" tabindex="-1" aria-hidden="true" @click="emit('open')">
      <ItemPicture
        :sha256="member.item.sha256"
        :kind="member.item.kind"
        :name="member.item.name"
        :placeholder="member.item.placeholder"
      />
    </button>
    <label class="choice">
      <input type="radio" :name="`stays-${group}`" :checked="stays" @change="emit('keep')" />
      <span v-if="stays"><strong>Stays</strong>: {{ reason }}</span>
      <span v-else>Keep this one</span>
    </label>
    <label v-if="!stays && keeper" class="choice">
      <input type="checkbox" :checked="!leftOut" @change="emit('leave')" />
      <span>{{ leftOut ? 'left as it is' : 'goes' }}</span>
    </label>
    <button class="link mono path" type="button" @click="emit('open')">{{ member.item.path }}</button>
    <p v-if="member.relation" class="figures">
      {{ RELATION_WORDS[member.relation] }}
      <span class="soft">({{ member.sure >= 0.5 ? 'very sure' : 'less sure' }})</span>
    </p>
    <dl class="figures">
      <template v-for="fact in facts" :key="fact.name">
        <dt class="soft">{{ fact.name }}</dt>
        <dd :class="{ soft: !fact.differs }">{{ fact.text }}</dd>
      </template>
    </dl>
  </article>
</template>

<style scoped>
article {
  display: flex;
  width: 226px;
  flex: none;
  flex-direction: column;
  align-items: flex-start;
  padding: 8px;
  border: 1px solid var(--rule);
  gap: 3px;
}
article.stays {
  border: 2px solid var(--verdigris);
  padding: 7px;
}
.picture {
  width: 100%;
  height: 124px;
  padding: 0;
  border: 0;
  background: var(--paper-sunk);
  cursor: pointer;
}
.choice {
  display: flex;
  min-height: 30px;
  align-items: center;
  gap: 6px;
}
.choice input {
  width: 18px;
  height: 18px;
  flex: none;
  margin: 3px;
  accent-color: var(--verdigris);
}
.stays .choice {
  color: var(--verdigris);
}
.path {
  max-width: 100%;
  min-height: 24px;
  text-align: left;
  word-break: break-all;
}
p {
  margin: 0;
}
dl {
  display: grid;
  width: 100%;
  margin: 2px 0 0;
  gap: 0 8px;
  grid-template-columns: auto 1fr;
}
dd {
  min-width: 0;
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
