<script setup lang="ts">
import PathText from '../../parts/PathText.vue';
import { computed } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { DoubleGroup } from '../../../api/upkeep.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count, USE_WORDS, weight } from '../../parts/words.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppRadio from '../../kit/AppRadio.vue';

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
    { name: 'Dimensions', text: pixels(item), differs: differs(pixels) },
    { name: 'File size', text: weight(item.bytes), differs: differs((one) => one.bytes) },
    { name: 'Added', text: day(item), differs: differs(day) },
    { name: 'Description', text: words(item) ? `“${words(item)}”` : 'none', differs: differs(words) },
    {
      name: 'Tags',
      text: item.words.tags.join(', ') || 'none',
      differs: differs((one) => one.words.tags.join()),
    },
    {
      name: 'Use',
      text:
        item.use === 'placed'
          ? `used ${item.placements === 1 ? 'once' : count(item.placements, 'time')}${pages.length ? `: ${pages.join('; ')}` : ''}`
          : USE_WORDS[item.use],
      differs: true,
    },
    ...(mentions ? [{ name: 'Mentioned in', text: count(mentions, 'text'), differs: true }] : []),
    ...(sizes ? [{ name: 'Sizes', text: `${sizes} belong to it`, differs: false }] : []),
  ];
  return found.filter((fact) => fact.text !== '');
});
const RELATION_WORDS = {
  're-encoded': 're-encoded',
  resized: 'another size',
  cropped: 'cropped',
  edited: 'edited',
  turned: 'turned or mirrored',
};
</script>

<template>
  <article :class="{ stays }">
    <AppButton look="tile" class="picture" tabindex="-1" aria-hidden="true" @click="emit('open')"
      ><ItemPicture
        :sha256="member.item.sha256"
        :kind="member.item.kind"
        :name="member.item.name"
        :placeholder="member.item.placeholder"
      />
    </AppButton>
    <AppRadio
      class="choice"
      :name="`stays-${group}`"
      :value="true"
      :model-value="stays"
      @change="emit('keep')"
    >
      <span v-if="stays"><strong>Keep</strong>: {{ reason }}</span>
      <span v-else>Keep this one</span>
    </AppRadio>
    <AppCheckbox v-if="!stays && keeper" class="choice" :model-value="!leftOut" @change="emit('leave')">
      <span>{{ leftOut ? 'Not merged' : 'Set aside' }}</span>
    </AppCheckbox>
    <AppButton look="link" class="mono path" @click="emit('open')"
      ><PathText :path="member.item.path"
    /></AppButton>
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
  max-width: 262px;
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
.stays .choice {
  color: var(--verdigris);
}
.path {
  max-width: 100%;
  min-height: 24px;
  text-align: left;
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
