<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import PathText from '../../parts/PathText.vue';
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ItemView, Words } from '../../../api/items.ts';
import { api, sentenceOf } from '../../api/client.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import WordsForm from '../../parts/WordsForm.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import AltNotes from './AltNotes.vue';
import DescribeTabs from './DescribeTabs.vue';
import PlacementContextList from './PlacementContextList.vue';
import SuggestionList from './SuggestionList.vue';
import { useQueue } from './useQueue.ts';
import AppButton from '../../kit/AppButton.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** One item after the other that needs words, the most used on the live site first. */
const route = useRoute();
const router = useRouter();
const plan = usePlan();

const WAITING = [
  ['kind:image,!mark:described', 'images without alt text'],
  ['!mark:described', 'all items without a description'],
  ['kind:image,mark:described,!name:.ico', 'images with alt text, to review'],
] as const;
const where = computed(() => String(route.query['where'] ?? WAITING[0][0]));
const folder = computed(() => String(route.query['folder'] ?? ''));
const query = computed(() => ({
  where: where.value,
  sort: 'seen',
  ...(folder.value ? { folder: folder.value } : {}),
  ...(Number(route.query['entry']) ? { entry: Number(route.query['entry']), state: 'any' } : {}),
}));
const { ids, at, view, fault, loaded, left, time, go } = useQueue(query);
function choose(change: Record<string, string | undefined>) {
  void router.push({ query: { ...route.query, ...change } });
}
const folders = ref<string[]>([]);
onMounted(async () => (folders.value = (await api.folders()).map((one) => one.folder).filter(Boolean)));

const item = computed(() => view.value?.item);
const textInside = ref('');
/** Why the text in the image could not be read. */
const unread = ref('');
const suggestions = computed(() => {
  const found = view.value?.suggestions ?? [];
  if (textInside.value === '' || found.some((one) => one.source === 'text read in the image')) return found;
  const read = {
    field: 'alt' as const,
    text: textInside.value.replace(/\s+/g, ' '),
    source: 'text read in the image',
    confidence: 0.45,
  };
  return [...found, read].sort((a, b) => b.confidence - a.confidence);
});
const fields = ref<HTMLElement>();
const form = ref<
  InstanceType<typeof WordsForm> & { save: () => Promise<boolean>; words: Words; touch: () => void }
>();
const offers = ref<InstanceType<typeof SuggestionList>>();
const altField = () => fields.value?.querySelector<HTMLElement>('textarea:not([disabled]), input');

/** Ends the reading of the image that stood here: a browser keeps six connections only, and the next one needs them. */
let reading = new AbortController();
onUnmounted(() => reading.abort());
const unconfirmed = ref<readonly string[]>([]);
watch(view, async (found) => {
  unconfirmed.value = found?.unconfirmed ?? [];
  reading.abort();
  textInside.value = found?.textInside ?? '';
  unread.value = '';
  if (!found) return;
  // Three hundred in an hour: the words can be typed at once.
  await nextTick();
  altField()?.focus();
  if (found.textInside !== null || found.item.kind !== 'image') return;
  const { signal } = (reading = new AbortController());
  try {
    textInside.value = (await api.recognise(found.item.id, signal)).text ?? '';
  } catch (error) {
    // Without it there is one suggestion less; the words can be written all the same.
    if (!signal.aborted) unread.value = sentenceOf(error);
  }
});

/** The words of the last item that was saved. */
const previous = ref<Words>();
/** From the key that goes on until the next one is here: what is typed meanwhile is meant for that one. */
let going = false;
let typedAhead = '';
async function next(save: boolean) {
  if (going) return;
  going = true;
  try {
    if (save) {
      if (!(await form.value?.save())) return;
      previous.value = JSON.parse(JSON.stringify(form.value!.words)) as Words;
    }
    await go(1);
    await nextTick();
  } finally {
    going = false;
    if (typedAhead !== '' && form.value && item.value?.kind === 'image') {
      form.value.words.alt += typedAhead;
      form.value.touch();
    }
    typedAhead = '';
  }
}
async function decorative() {
  if (!form.value) return;
  form.value.words.decorative = true;
  await next(true);
}
/** The same words as the one before: for rows of nearly the same image. */
function same() {
  if (!form.value || !previous.value) return;
  const { alt, decorative: without, title, caption, tags } = previous.value;
  Object.assign(form.value.words, { alt, decorative: without, title, caption, tags: [...tags] });
  form.value.touch();
  altField()?.focus();
}
/** Those that the words do not have yet. */
const offeredTags = computed(() => {
  const there = (form.value?.words ?? item.value?.words)?.tags.map((tag) => tag.toLowerCase()) ?? [];
  return (view.value?.suggestedTags ?? []).filter(({ tag }) => !there.includes(tag.toLowerCase()));
});
function addTag(tag: string) {
  form.value?.words.tags.push(tag);
  form.value?.touch();
}
function take(text: string, field: 'alt' | 'title' | 'caption' = 'alt') {
  if (!form.value) return;
  form.value.words[field] = text;
  form.value.touch();
  if (field === 'alt') altField()?.focus();
}
async function write(places: { page: string; start: number }[]) {
  if (await form.value?.save()) await plan.propose({ kind: 'page-words', places });
}

function onKey(event: KeyboardEvent) {
  const target = event.target as HTMLElement;
  if (target.closest?.('[role=dialog]')) return;
  if (going) {
    if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) typedAhead += event.key;
    event.preventDefault();
    return;
  }
  const typing = target.closest?.('input, textarea, select') ?? null;
  const inAlt = target.matches?.('.alt textarea');
  const plain = typing === null && !event.ctrlKey && !event.altKey && !event.metaKey;
  if (event.key === 'Enter' && (event.ctrlKey || (inAlt && !event.shiftKey && !event.isComposing)))
    void next(true);
  else if (inAlt && event.key === 'ArrowDown' && atEnd(target as HTMLTextAreaElement)) {
    if (!offers.value?.enter()) return;
  } else if (typing && event.key === 'Escape') target.blur();
  else if (plain && event.key === 'd') void decorative();
  else if (plain && event.key === 's') void next(false);
  else if (plain && event.key === 'p') same();
  else if (plain && event.key === 'b') void go(-1);
  else if (plain && /^[1-6]$/.test(event.key)) {
    if (!offers.value?.take(Number(event.key))) return;
  } else return;
  event.preventDefault();
}
function atEnd(field: HTMLTextAreaElement): boolean {
  return field.selectionStart === field.value.length;
}
useEventListener('keydown', onKey);

const coming = ref<ItemView[]>([]);
watch(
  [at, ids],
  async () => {
    const wanted = ids.value.slice(at.value + 1, at.value + 9);
    const found = await api.itemsSome(wanted);
    coming.value = found;
  },
  { immediate: true },
);
const passed = computed(() => loaded.value && ids.value.length > 0 && left.value === 0);
</script>

<template>
  <div class="describe">
    <header>
      <h1>Describe</h1>
      <DescribeTabs />
      <span class="filter">
        <label
          ><span class="hidden-words">Show</span>
          <AppSelect :chars="22" :model-value="where" @change="choose({ where: $event })"
            ><AppOption v-for="[value, words] in WAITING" :key="value" :value="value" :label="words" />
            <AppOption
              v-if="!WAITING.some(([value]) => value === where)"
              :value="where"
              label="custom search"
            /> </AppSelect
        ></label>
        <label
          ><span class="hidden-words">Folder</span>
          <AppSelect :chars="18" :model-value="folder" @change="choose({ folder: $event || undefined })"
            ><AppOption value="" label="all folders" />
            <AppOption v-for="one in folders" :key="one" :value="one" :label="one" /> </AppSelect
        ></label>
      </span>
    </header>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="loaded && (ids.length === 0 || passed)" class="empty">
      {{ passed ? 'That was the last one.' : 'Nothing to describe here.' }}
      Find all items without a description in the
      <RouterLink :to="{ name: 'library', query: { where: '!mark:described' } }">Library</RouterLink>.
    </p>
    <template v-else-if="view && item">
      <section class="look" aria-label="Image">
        <div class="picture">
          <ItemPicture
            :key="item.id"
            :sha256="item.sha256"
            :kind="item.kind"
            :name="item.name"
            :placeholder="item.placeholder"
            :size="1280"
            :alt="item.words.alt || `The item to describe, ${item.name}`"
          />
        </div>
        <p class="mono"><PathText :path="item.path" /></p>
        <p v-if="textInside" class="soft">Text in the image: “{{ textInside.replace(/\s+/g, ' ') }}”</p>
        <p v-if="unread" class="soft">Couldn’t read the text in the image: {{ unread }}</p>
        <h2>Used on</h2>
        <PlacementContextList
          :contexts="view.contexts"
          :more="view.more"
          :words="form?.words ?? item.words"
          @take="take($event)"
          @write="write"
        />
      </section>
      <section ref="fields" class="fields" aria-label="Words">
        <WordsForm
          ref="form"
          :key="item.id"
          :item="item"
          :unconfirmed="unconfirmed"
          rights
          @confirmed="unconfirmed = []"
        >
          <template #alt>
            <AltNotes
              :id="item.id"
              :path="item.path"
              :words="form?.words ?? item.words"
              :contexts="view.contexts"
              :text-inside="textInside"
            />
            <SuggestionList
              ref="offers"
              :suggestions="suggestions"
              field="alt"
              @take="take($event)"
              @leave="altField()?.focus()"
            />
          </template>
          <template #title>
            <SuggestionList
              :suggestions="suggestions"
              field="title"
              unnumbered
              @take="take($event, 'title')"
            />
          </template>
          <template #tags>
            <p v-if="offeredTags.length" class="offered" role="group" aria-label="Suggested tags">
              <span class="soft">Suggested:</span>
              <AppButton
                v-for="one in offeredTags"
                :key="one.tag"
                look="link"
                :aria-label="`Add the tag ${one.tag}, ${Math.round(100 * one.confidence)} percent sure`"
                @click="addTag(one.tag)"
                >{{ one.tag }}</AppButton
              >
            </p>
          </template>
          <template #caption>
            <SuggestionList
              :suggestions="suggestions"
              field="caption"
              unnumbered
              @take="take($event, 'caption')"
            />
          </template>
        </WordsForm>
      </section>
      <footer>
        <p class="figures">
          {{ (at + 1).toLocaleString('en') }} of {{ count(ids.length, 'item') }}, {{ time }}
        </p>
        <div v-for="one in coming" :key="one.id" class="coming">
          <ItemPicture :sha256="one.sha256" :kind="one.kind" :name="one.name" />
        </div>
        <div class="buttons">
          <AppButton :disabled="at === 0" @click="void go(-1)"> Back <kbd>B</kbd> </AppButton>
          <AppButton :disabled="!previous" @click="same"> Same as previous <kbd>P</kbd> </AppButton>
          <AppButton v-if="item.kind === 'image'" @click="decorative"> Decorative <kbd>D</kbd> </AppButton>
          <AppButton @click="next(false)">Skip <kbd>S</kbd></AppButton>
          <AppButton look="main" @click="next(true)">Save and next <kbd>Enter</kbd></AppButton>
        </div>
      </footer>
    </template>
  </div>
</template>

<style scoped src="./DescribeSection.css"></style>
