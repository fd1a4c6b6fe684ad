<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { PageDetail, PageView } from '../../../api/items.ts';
import { encodePath } from '../../../core/address/path.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';

const site = useSite();
const route = useRoute();
const router = useRouter();
const pages = ref<PageView[]>([]);
const fault = ref('');
const detail = ref<PageDetail>();
const onlyCare = ref(false);
const path = computed(() => (typeof route.query['page'] === 'string' ? route.query['page'] : ''));

watch(
  () => site.revision,
  async () => {
    try {
      pages.value = await api.pages();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
watch(
  [path, () => site.revision],
  async () => {
    detail.value = path.value ? await api.page(path.value) : undefined;
  },
  { immediate: true },
);
const shown = computed(() =>
  onlyCare.value ? pages.value.filter((page) => page.broken || page.missingAlt || page.unread) : pages.value,
);
const heaviest = computed(() => Math.max(1, ...pages.value.map((page) => page.bytes)));
</script>

<template>
  <div class="pages">
    <div class="surface">
      <div class="head">
        <h1>Pages</h1>
        <p class="soft figures">
          {{ count(pages.length, 'content file') }},
          {{
            count(
              pages.reduce((sum, page) => sum + page.broken, 0),
              'broken reference',
            )
          }},
          {{
            count(
              pages.reduce((sum, page) => sum + page.missingAlt, 0),
              'picture',
            )
          }}
          without alt
        </p>
        <label><input v-model="onlyCare" type="checkbox" /> only those that need care</label>
      </div>
      <p v-if="fault" class="note losing">{{ fault }}</p>
      <table class="ruled">
        <thead>
          <tr>
            <th scope="col">Page</th>
            <th scope="col" class="number">Placements</th>
            <th scope="col">Weight of its media</th>
            <th scope="col" class="number">No alt</th>
            <th scope="col" class="number">Broken</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="page in shown" :key="page.path" :class="{ current: page.path === path }">
            <td>
              <button
                class="link"
                type="button"
                @click="router.push({ query: { ...route.query, page: page.path } })"
              >
                {{ page.title }}
              </button>
              <div class="mono soft">{{ page.path }}</div>
              <div v-if="page.unread" class="ochre">{{ page.unread }}</div>
            </td>
            <td class="number">{{ page.placements || '' }}</td>
            <td>
              <div
                v-if="page.bytes"
                class="bar"
                :style="{ width: `${Math.max(2, (90 * page.bytes) / heaviest)}px` }"
              ></div>
              <span v-if="page.bytes" class="figures">{{ weight(page.bytes) }}</span>
            </td>
            <td class="number ochre">{{ page.missingAlt || '' }}</td>
            <td class="number madder">{{ page.broken || '' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <aside v-if="detail && path" aria-label="Placements on the page">
      <h2 class="mono">{{ path }}</h2>
      <p>
        <a :href="`${site.site?.servedAt}/${encodePath(path)}`" target="_blank" rel="noreferrer"
          >Open the page as served</a
        >
      </p>
      <template v-if="detail.broken.length">
        <h3>Broken references</h3>
        <ul>
          <li v-for="one in detail.broken" :key="`${one.line}${one.url}`">
            <span class="mono madder">{{ one.url }}</span>
            <p class="soft">
              line {{ one.line
              }}<template v-if="one.near"
                >; the file is named <span class="mono">{{ one.near }}</span></template
              >
            </p>
          </li>
        </ul>
      </template>
      <h3>Shows {{ count(detail.shown.length, 'item') }}</h3>
      <ul>
        <li v-for="(one, index) in detail.shown" :key="index">
          <RouterLink class="mono" :to="{ query: { ...route.query, item: one.itemId } }">{{
            one.path
          }}</RouterLink>
          <p class="soft">line {{ one.line }}, {{ one.place }}</p>
          <p v-if="one.place === 'img src' && !one.hasAlt" class="ochre">No alt text on the page.</p>
        </li>
      </ul>
    </aside>
  </div>
</template>

<style scoped>
.pages {
  display: flex;
  height: 100%;
}
.surface {
  min-width: 0;
  flex: 1;
}
.head label {
  margin-left: auto;
}
tr.current td {
  background: var(--verdigris-wash);
}
.bar {
  display: inline-block;
  height: 9px;
  margin-right: 8px;
  background: var(--rule-strong);
}
.ochre {
  color: var(--ochre);
}
.madder {
  color: var(--madder);
}
aside {
  width: 330px;
  flex: none;
  padding: 18px 16px;
  border-left: 1px solid var(--rule);
  overflow: auto;
}
aside h2 {
  font-size: 14px;
  word-break: break-all;
}
aside h3 {
  margin: 14px 0 4px;
}
aside ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
aside li {
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  word-break: break-all;
}
</style>
