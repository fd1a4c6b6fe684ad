<script setup lang="ts">
import { computed } from 'vue';
import { useRoute } from 'vue-router';
import type { ItemDetail } from '../../api/items.ts';
import { useSite } from '../stores/site.ts';
import { count, moment } from './words.ts';

/** Every use of an item: where it is placed, where it is only mentioned, where a live site shows it, its copies. */
const props = defineProps<{ detail: ItemDetail }>();
const site = useSite();
const route = useRoute();
const item = computed(() => props.detail.item);
/** The placement on its page, with the way back to here. */
const spotOf = ({ page, start }: ItemDetail['placements'][number]) => ({
  name: 'pages',
  query: { page, spot: start },
  state: { from: route.fullPath },
});
</script>

<template>
  <section>
    <h3>Used in {{ count(item.placements, 'place') }}</h3>
    <ol v-if="detail.placements.length" class="clippings">
      <li v-for="(one, index) in detail.placements" :key="index">
        <RouterLink :to="spotOf(one)" title="Show this placement in Pages">{{
          one.pageTitle || one.page
        }}</RouterLink>
        <a class="served soft" :href="site.servedAddress(one.page)" target="_blank" rel="noreferrer"
          >as served<span class="hidden-words"> (opens in a new window)</span></a
        >
        <span class="mono soft"
          >{{ one.page }}, line {{ one.line }}, {{ one.place
          }}<template v-if="one.path !== item.path">, as {{ one.path.split('/').at(-1) }}</template></span
        >
        <p v-if="one.before || one.after" class="text">{{ one.before }} <mark>▣</mark> {{ one.after }}</p>
        <p v-if="one.place === 'img src' && !one.hasAlt" class="ochre">No alt text on the page.</p>
        <p v-else-if="one.alt" class="soft">alt on the page: “{{ one.alt }}”</p>
      </li>
    </ol>
    <p v-if="item.placements > detail.placements.length" class="soft">
      and {{ item.placements - detail.placements.length }} more
    </p>
    <p v-if="!detail.placements.length" class="soft">
      Not used on any page{{
        item.use === 'placed' && !detail.live.length ? '; browsers request it by convention' : ''
      }}.
    </p>
    <template v-if="detail.live.length">
      <h3>Used on the live site</h3>
      <ul class="clippings">
        <li v-for="(one, index) in detail.live" :key="index">
          <a :href="one.url" target="_blank" rel="noreferrer">{{ one.title || one.url }}</a>
          <span class="mono soft"
            >{{ one.place }}, read {{ moment(one.readAt) }}; that page can’t be changed here</span
          >
        </li>
      </ul>
    </template>
    <template v-if="detail.mentions.length">
      <h3>Mentioned in text</h3>
      <ul class="clippings">
        <li v-for="(one, index) in detail.mentions" :key="index" class="mono">
          {{ one.page }}, line {{ one.line }}
        </li>
      </ul>
    </template>
    <template v-if="detail.copies.length">
      <h3>Exact copies</h3>
      <ul class="clippings">
        <li v-for="one in detail.copies" :key="one.id">
          <RouterLink class="mono" :to="{ query: { ...route.query, item: one.id } }">{{
            one.path
          }}</RouterLink>
        </li>
      </ul>
    </template>
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
.clippings {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.clippings li {
  padding: 6px 10px;
  background: var(--paper-raised);
  border-left: 2px solid var(--rule-strong);
}
.clippings > li > span {
  display: block;
  overflow-wrap: anywhere;
}
.text {
  font-size: 13px;
}
mark {
  background: none;
  color: var(--verdigris);
}
.ochre {
  color: var(--ochre);
}
.clippings a {
  display: inline-block;
  line-height: 24px;
}
.served {
  margin-left: 8px;
  font-size: 12.5px;
}
</style>
