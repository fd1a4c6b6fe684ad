<script setup lang="ts">
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { ItemDetail, ItemView } from '../../../api/items.ts';
import { encodePath } from '../../../core/address/path.ts';
import { api, sentenceOf } from '../../api/client.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import WordsForm from '../../parts/WordsForm.vue';
import { count } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';

/** One picture after the other that needs words, the most placed first. */
const site = useSite();
const route = useRoute();
const queue = ref<ItemView[]>([]);
const at = ref(0);
const detail = ref<ItemDetail>();
const fault = ref('');
const loaded = ref(false);
const fields = ref<HTMLElement>();
const form = ref<
  InstanceType<typeof WordsForm> & { save: () => Promise<boolean>; words: { decorative: boolean } }
>();

onMounted(async () => {
  try {
    queue.value = (
      await api.items({
        where: 'kind:image,!mark:described',
        sort: 'placements',
        limit: 500,
        entry: Number(route.query['entry']) || undefined,
      })
    ).items;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  loaded.value = true;
});
const current = computed(() => queue.value[at.value]);
watch(current, async (item) => {
  detail.value = undefined;
  if (!item) return;
  const found = await api.item(item.id);
  if (found.item.id !== current.value?.id) return;
  detail.value = found;
  // Three hundred in an hour: the words can be typed at once.
  await nextTick();
  fields.value?.querySelector('textarea')?.focus();
});

async function next(save: boolean) {
  if (save && !(await form.value?.save())) return;
  at.value++;
}
async function decorative() {
  if (!form.value) return;
  form.value.words.decorative = true;
  await next(true);
}
function onKey(event: KeyboardEvent) {
  const at = event.target as HTMLElement;
  const typing = at.closest?.('input, textarea, select') !== null && at.closest !== undefined;
  const plain = !typing && !event.ctrlKey && !event.altKey && !event.metaKey;
  if (event.ctrlKey && event.key === 'Enter') void next(true);
  else if (typing && event.key === 'Escape') at.blur();
  else if (plain && event.key === 'd') void decorative();
  else if (plain && event.key === 's') void next(false);
  else return;
  event.preventDefault();
}
onMounted(() => window.addEventListener('keydown', onKey));
onUnmounted(() => window.removeEventListener('keydown', onKey));
</script>

<template>
  <div class="describe">
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <div v-if="loaded && !current" class="surface">
      <h1>Describe</h1>
      <p class="empty">
        {{
          queue.length
            ? 'That was the last picture of this round.'
            : 'Every picture has its alt text, or is decorative.'
        }}
        Pictures that still lack words are found in the
        <RouterLink :to="{ name: 'library', query: { where: '!mark:described' } }">Library</RouterLink>.
      </p>
    </div>
    <template v-else-if="detail">
      <section class="look" aria-label="Picture">
        <h1 class="hidden-words">Describe</h1>
        <div class="picture">
          <ItemPicture
            :key="detail.item.id"
            :sha256="detail.item.sha256"
            kind="image"
            :name="detail.item.name"
            :placeholder="detail.item.placeholder"
            :size="1280"
            :alt="detail.item.words.alt || `The picture to describe, ${detail.item.name}`"
          />
        </div>
        <p class="mono">{{ detail.item.path }}</p>
        <h2>Where it stands</h2>
        <ol v-if="detail.placements.length">
          <li v-for="(one, index) in detail.placements.slice(0, 4)" :key="index">
            <a :href="`${site.site?.servedAt}/${encodePath(one.page)}`" target="_blank" rel="noreferrer">{{
              one.pageTitle || one.page
            }}</a>
            <p>{{ one.before }} <span class="spot">▣</span> {{ one.after }}</p>
            <p v-if="one.alt" class="soft">alt on the page: “{{ one.alt }}”</p>
          </li>
        </ol>
        <p v-else class="soft">No page shows it.</p>
      </section>
      <section ref="fields" class="fields" aria-label="Words">
        <WordsForm ref="form" :key="detail.item.id" :item="detail.item" />
        <div class="buttons">
          <button class="act" type="button" @click="next(true)">Save and next <kbd>Ctrl Enter</kbd></button>
          <button class="act quiet" type="button" @click="decorative">Decorative <kbd>D</kbd></button>
          <button class="act quiet" type="button" @click="next(false)">Skip <kbd>S</kbd></button>
        </div>
      </section>
      <footer>
        <p class="figures">{{ at + 1 }} of {{ count(queue.length, 'picture') }} without alt text</p>
        <div v-for="item in queue.slice(at + 1, at + 9)" :key="item.id" class="coming">
          <ItemPicture :sha256="item.sha256" kind="image" :name="item.name" />
        </div>
      </footer>
    </template>
  </div>
</template>

<style scoped>
.describe {
  display: grid;
  height: 100%;
  min-height: 0;
  grid-template: minmax(0, 1fr) auto / minmax(0, 1.35fr) minmax(320px, 1fr);
}
.describe > .surface {
  grid-column: 1 / 3;
}
.look,
.fields {
  padding: 18px 24px;
  overflow: auto;
}
.fields {
  border-left: 1px solid var(--rule);
  font-size: 15px;
}
.picture {
  height: 52%;
  min-height: 240px;
}
.look h2 {
  margin: 12px 0 6px;
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  margin-bottom: 8px;
  padding: 6px 12px;
  border-left: 2px solid var(--rule-strong);
  background: var(--paper-raised);
}
.spot {
  color: var(--verdigris);
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 16px;
}
kbd {
  margin-left: 6px;
  border-color: currentcolor;
  font-size: 11px;
}
footer {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 8px 24px;
  border-top: 1px solid var(--rule-strong);
  grid-column: 1 / 3;
}
footer p {
  margin-right: 12px;
}
.coming {
  width: 62px;
  height: 46px;
}
</style>
