<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRoute } from 'vue-router';
import type { ItemDetail } from '../../api/items.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import { FIELD_NAMES, TEXT_FIELD_KEYS } from '../../core/describe/fields.ts';
import { weight } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import { laterPart } from '../kit/later.ts';

const ItemPicker = laterPart(() => import('./ItemPicker.vue'));

/** The image that this file is a size of; or the sizes of this image, which share its record. */
const props = defineProps<{ detail: ItemDetail }>();
const plan = usePlan();
const site = useSite();
const groups = computed(() => site.can('organise'));
const route = useRoute();
const picking = ref(false);
const item = computed(() => props.detail.item);
const family = computed(() => props.detail.family);
const dimensions = (one: { width: number | null; height: number | null; bytes: number }) =>
  `${one.width ? `${one.width} × ${one.height} px, ` : ''}${weight(one.bytes)}`;
/** What was written of a size before it was known as one: kept, but its image's words hold. */
const before = computed(() => {
  if (!family.value.of) return [];
  const { words } = item.value;
  return [
    ...TEXT_FIELD_KEYS.map((field) => ({ name: FIELD_NAMES[field], text: words[field] })),
    { name: FIELD_NAMES.tags, text: words.tags.join(', ') },
    ...Object.entries(words.own).map(([name, text]) => ({ name, text })),
  ].filter(({ text }) => text !== '');
});
const separate = (id: number) => plan.propose({ kind: 'family', itemIds: [id], of: 'apart' });
const IMAGES = {
  join: 'all' as const,
  not: false,
  of: [{ test: 'kind' as const, value: 'image', not: false }],
};
</script>

<template>
  <section v-if="family.of">
    <h3>Size of another image</h3>
    <p>
      This file is a size of
      <RouterLink class="mono" :to="{ query: { ...route.query, item: family.of.id } }">{{
        family.of.name
      }}</RouterLink>. Both are one item, with the description, tags and rights of that image.
    </p>
    <template v-if="before.length">
      <p class="soft">Text saved before this became a size. It is kept but not used:</p>
      <dl>
        <template v-for="one in before" :key="one.name">
          <dt class="soft">{{ one.name }}</dt>
          <dd>{{ one.text }}</dd>
        </template>
      </dl>
    </template>
    <div v-if="groups" class="acts">
      <AppButton
        v-if="before.length"
        @click="plan.propose({ kind: 'family', itemIds: [item.id], of: family.of.id })"
      >
        Fill gaps in the main image …
      </AppButton>
      <AppButton @click="separate(item.id)">Separate from it …</AppButton>
    </div>
  </section>
  <section v-else-if="item.kind === 'image' && item.state === 'here'">
    <h3>Sizes</h3>
    <p v-if="family.sizes.length" class="soft">
      They share this record and are renamed, moved, replaced and set aside together.
    </p>
    <ul v-if="family.sizes.length">
      <li v-for="size in family.sizes" :key="size.id">
        <RouterLink class="mono" :to="{ query: { ...route.query, item: size.id } }" :title="size.path">{{
          size.name
        }}</RouterLink>
        <span class="soft figures">{{ dimensions(size) }}</span>
        <AppButton v-if="groups" look="link" :aria-label="`Separate ${size.name}`" @click="separate(size.id)">
          Separate …
        </AppButton>
      </li>
    </ul>
    <p v-else class="soft">No other sizes of this image.</p>
    <div v-if="groups" class="acts">
      <AppButton look="link" @click="picking = true">Add a size …</AppButton>
      <AppButton
        v-if="family.said"
        look="link"
        @click="plan.propose({ kind: 'family', itemIds: [item.id], of: 'found' })"
      >
        Detect by name again …
      </AppButton>
    </div>
    <ItemPicker
      v-if="picking"
      :title="`An image that is a size of “${item.name}”`"
      :where="IMAGES"
      @choose="
        picking = false;
        plan.propose({ kind: 'family', itemIds: [$event.id], of: item.id });
      "
      @close="picking = false"
    />
  </section>
</template>

<style scoped>
section {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding-top: 10px;
  border-top: 1px solid var(--rule);
}
p {
  margin: 0;
}
dl {
  display: grid;
  gap: 2px 12px;
  margin: 0;
  grid-template-columns: auto 1fr;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
ul {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  align-items: baseline;
  gap: 0 10px;
  grid-template-columns: 1fr auto;
}
li a {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li .soft {
  grid-row: 2;
}
li .link {
  grid-row: 1 / 3;
  grid-column: 2;
  align-self: center;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
</style>
