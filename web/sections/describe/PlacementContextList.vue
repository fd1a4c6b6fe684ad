<script setup lang="ts">
import type { PlacementContextView } from '../../../api/items.ts';
import { inLine, fromPage } from '../../../core/describe/in-line.ts';
import type { Words } from '../../../core/describe/fields.ts';
import { useSite } from '../../stores/site.ts';
import { count } from '../../parts/words.ts';
import AppButton from '../../kit/AppButton.vue';

/** Where an item stands: clippings of its pages, with the words there beside the record's. */
const props = defineProps<{ contexts: readonly PlacementContextView[]; more: number; words: Words }>();
const emit = defineEmits<{ take: [alt: string]; write: [places: { page: string; start: number }[]] }>();
const site = useSite();
const others = () => props.contexts.filter((one) => inLine(one, props.words));
</script>

<template>
  <ol v-if="contexts.length" class="clippings">
    <li v-for="(one, index) in contexts" :key="index">
      <p class="where">
        <a :href="site.servedAddress(one.page)" target="_blank" rel="noreferrer">{{
          one.pageTitle || one.page
        }}</a>
        <template v-if="one.heading"> · {{ one.heading }}</template>
        <span class="soft mono"> {{ one.place }}</span>
      </p>
      <p class="text">{{ one.before }} <span class="spot">▣</span> {{ one.after }}</p>
      <p v-if="one.figcaption" class="soft">caption: “{{ one.figcaption }}”</p>
      <p v-if="one.link" class="soft">
        in a link to {{ one.link.targetTitle ? `“${one.link.targetTitle}”` : one.link.href
        }}{{ one.link.alone ? ', alone in it' : '' }}
      </p>
      <p v-if="one.takesAlt" class="soft">
        {{
          one.alt === null
            ? 'no alt text on the page'
            : one.alt === ''
              ? 'alt text empty on the page'
              : `alt on the page: “${one.alt}”`
        }}
        <AppButton v-if="one.alt && fromPage(one, words)" look="link" @click="emit('take', one.alt)">
          Use this
        </AppButton>
        <AppButton
          v-if="inLine(one, words)"
          look="link"
          @click="emit('write', [{ page: one.page, start: one.start }])"
        >
          Write to page …
        </AppButton>
      </p>
    </li>
  </ol>
  <p v-else class="soft">Not used on any page.</p>
  <p v-if="more" class="soft">and {{ count(more, 'more placement') }}</p>
  <AppButton
    v-if="others().length > 1"
    look="link"
    @click="
      emit(
        'write',
        others().map(({ page, start }) => ({ page, start })),
      )
    "
  >
    Write to all {{ others().length }} placements …
  </AppButton>
</template>

<style scoped>
.clippings {
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  padding: 6px 12px;
  border-left: 2px solid var(--rule-strong);
  margin-bottom: 8px;
  background: var(--paper-raised);
}
.where {
  font-size: 13px;
}
.where .mono {
  margin-left: 8px;
  font-size: 11.5px;
}
.spot {
  color: var(--verdigris);
}
</style>
