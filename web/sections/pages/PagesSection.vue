<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import PathText from '../../parts/PathText.vue';
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ItemView } from '../../../api/items.ts';
import type { BrokenView, PageDetail, PageView, ShownView } from '../../../api/pages.ts';
import { textKindOf } from '../../../core/document/document.ts';
import { api, sentenceOf } from '../../api/client.ts';
import BrokenList from '../../parts/BrokenList.vue';
import GuessedRoot from '../../parts/GuessedRoot.vue';
import LayoutDialog from '../../parts/LayoutDialog.vue';
import { count } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import GalleryForm from './GalleryForm.vue';
import LiveDialog from './LiveDialog.vue';
import { inOrder, type LookMessage, type Measured, type SpotChoice } from './look.ts';
import PageList from './PageList.vue';
import PagePreview from './PagePreview.vue';
import PlacementForm from './PlacementForm.vue';
import PlacementList from './PlacementList.vue';
import PlacingForm from './PlacingForm.vue';
import AppButton from '../../kit/AppButton.vue';
import { isCovered, useOneColumn } from '../../kit/screen.ts';
import { laterPart } from '../../kit/later.ts';

const FocalDialog = laterPart(() => import('../../parts/FocalDialog.vue'));
const ItemPicker = laterPart(() => import('../../parts/ItemPicker.vue'));

const site = useSite();
const route = useRoute();
const oneColumn = useOneColumn();
const router = useRouter();
const pages = ref<PageView[]>([]);
const fault = ref('');
const loaded = ref<PageDetail>();
/** Who may place nothing only looks. */
const detail = computed(
  () => loaded.value && { ...loaded.value, editable: loaded.value.editable && site.can('place') },
);
const allBroken = ref<BrokenView[]>();
const laying = ref(false);
const living = ref(false);
const path = computed(() => (typeof route.query['page'] === 'string' ? route.query['page'] : ''));

/** The placement that is looked at, by its number on the drawn page. */
const chosen = ref<number>();
const measured = ref<Measured[]>([]);
/** What a spot is being chosen for. */
const placing = ref<'item' | 'background' | 'gallery'>();
/** CSS pixels that a background is shown wide. */
const fitting = ref<number>();
/** The placement that is edited. */
const edited = ref<ShownView>();
const spot = ref<SpotChoice>();
const item = ref<ItemView>();
const picking = ref(false);
/** The gallery on the page that is made anew. */
const gallery = ref<PageDetail['galleries'][number]>();
/** The plan that the page is drawn with. */
const planned = ref<string>();
const focal = ref<ShownView>();

watch(
  () => site.revision,
  async () => {
    try {
      pages.value = await api.pages();
      if (allBroken.value) allBroken.value = await api.broken();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
let asked = 0;
watch(
  [path, () => site.revision],
  async ([now], before) => {
    const mine = ++asked;
    if (now !== before?.[0]) {
      rest();
      chosen.value = undefined;
      measured.value = [];
    }
    fault.value = '';
    try {
      const next = now ? await api.page(now) : undefined;
      if (mine !== asked) return;
      loaded.value = next;
      if (next && now !== before?.[0] && route.query['spot'] !== undefined) {
        const start = Number(route.query['spot']);
        chosen.value = next.shown.find((one) => one.page === now && one.start === start)?.at;
      }
    } catch (error) {
      if (mine === asked) fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
/** Nothing is being placed any more. */
function rest() {
  placing.value = undefined;
  fitting.value = undefined;
  edited.value = undefined;
  spot.value = undefined;
  item.value = undefined;
  gallery.value = undefined;
  planned.value = undefined;
  picking.value = false;
}
/** Where one came from, when a placement was opened from the record of its item. */
const back = computed(() => {
  void route.fullPath;
  const from = (history.state as { from?: unknown }).from;
  return typeof from === 'string' ? from : undefined;
});
function open(page: string | undefined) {
  void router.push({ query: { ...route.query, page, item: undefined, spot: undefined } });
}
const src = computed(() => {
  const look = detail.value?.look;
  if (!look) return '';
  // What was written shows at once: another address, another page.
  return planned.value ? `${look}&plan=${planned.value}` : `${look}&seen=${detail.value?.stamp ?? ''}`;
});
function take(at: SpotChoice | undefined) {
  if (!at) return;
  spot.value = at;
  if (placing.value === 'gallery') {
    if (!('at' in at)) spot.value = undefined;
  } else picking.value = true;
}
function exchange(shown: ShownView) {
  placing.value = 'item';
  take(shown.place.startsWith('css') ? spotAt({ background: shown.at }) : { insteadOf: shown.start });
}
/** A background that is there, of the same item in a size that fits. */
async function fit(shown: ShownView, width: number) {
  const at = spotAt({ background: shown.at });
  if (!at) return;
  try {
    const [its] = await api.itemsSome([shown.itemId]);
    const [main] = its?.sizeOf ? await api.itemsSome([its.sizeOf]) : [its];
    placing.value = 'item';
    spot.value = at;
    fitting.value = width;
    item.value = main;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
/** A spot of the drawn page, by where it is written. */
function spotAt(at: NonNullable<LookMessage['spot']>): SpotChoice | undefined {
  if ('behind' in at) {
    fitting.value = at.width;
    return { behind: at.behind };
  }
  if (!('background' in at)) return at;
  const shown = detail.value?.shown.find((one) => one.at === at.background);
  return shown && { background: shown.start, in: shown.page };
}
function renew(one: PageDetail['galleries'][number]) {
  placing.value = 'gallery';
  gallery.value = one;
}
async function showBroken() {
  try {
    allBroken.value = allBroken.value ? undefined : await api.broken();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
const totals = computed(() => ({
  broken: pages.value.reduce((sum, page) => sum + page.broken, 0),
  missing: pages.value.reduce((sum, page) => sum + page.missingAlt, 0),
}));
const looking = computed(() => detail.value !== undefined && path.value !== '');
const formOpen = computed(
  () =>
    ((placing.value === 'item' || placing.value === 'background') && item.value && spot.value) ||
    (placing.value === 'gallery' && (spot.value || gallery.value)),
);
const spots = computed(() =>
  placing.value === undefined || formOpen.value
    ? false
    : placing.value === 'background'
      ? 'background'
      : 'item',
);
function act(key: string): boolean {
  if (key === 'Escape') {
    if (placing.value || edited.value) rest();
    else if (path.value) open(undefined);
    return true;
  }
  if (!detail.value) return false;
  if (key === 'p' && detail.value.editable) placing.value = 'item';
  else if (key === 'g' && detail.value.editable) placing.value = 'gallery';
  else if (key === 'h' && detail.value.editable) placing.value = 'background';
  else if (key === 'b' && !route.query['item']) {
    const one = detail.value.shown.find((one) => one.at === chosen.value && one.kind === 'image');
    if (one && site.may('clean')) void router.push({ name: 'edit', params: { id: one.itemId } });
  } else if (key === 'e' && detail.value.editable) {
    const one = detail.value.shown.find((one) => one.at === chosen.value && one.page === path.value);
    if (one) edited.value = one;
  } else if (key === 'j' || key === 'k') {
    const starts = inOrder(detail.value, measured.value).map((one) => one.at);
    const to = starts.indexOf(chosen.value ?? -1) + (key === 'j' ? 1 : -1);
    if (starts.length > 0) chosen.value = starts[Math.min(starts.length - 1, Math.max(0, to))];
  } else return false;
  return true;
}
function onKey(event: KeyboardEvent) {
  const at = event.target as HTMLElement;
  if (event.ctrlKey || event.metaKey || event.altKey || at.closest('input, textarea, select, [role=dialog]'))
    return;
  if (isCovered()) return;
  if (!act(event.key)) return;
  event.preventDefault();
}
useEventListener('keydown', onKey);
</script>

<template>
  <div class="pages">
    <div class="left" :class="{ narrow: looking }">
      <div class="head">
        <h1>Pages</h1>
        <p class="soft figures">
          <AppButton look="link" :aria-expanded="allBroken !== undefined" @click="showBroken">{{
            count(totals.broken, 'broken reference')
          }}</AppButton>, {{ count(totals.missing, 'image') }} without alt
        </p>
        <AppButton v-if="site.may('settings')" look="link" class="laid" @click="living = true"
          >Live site …</AppButton
        >
        <AppButton v-if="site.may('settings')" look="link" class="laid" @click="laying = true"
          >Site folders …</AppButton
        >
        <GuessedRoot />
      </div>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <section v-if="allBroken" class="broken" aria-label="Broken references">
        <BrokenList v-if="allBroken.length" :broken="allBroken" pages />
        <p v-else class="soft">No broken references.</p>
      </section>
      <PageList :pages="pages" :current="path" :narrow="looking || oneColumn" @open="open" />
    </div>
    <template v-if="looking && detail">
      <div class="middle">
        <PagePreview
          v-if="src"
          :src="src"
          :title="`${detail.title}, as it is served`"
          :chosen="chosen"
          :placing="spots"
          @choose="chosen = $event"
          @spot="(at) => take(spotAt(at))"
          @measured="measured = $event"
          @key="act"
        >
          <span class="spread"></span>
          <template v-if="placing && !formOpen">
            <span class="ochre" role="status">Choose a spot on the page.</span>
            <AppButton @click="rest">Cancel</AppButton>
          </template>
          <template v-else-if="detail.editable && !placing && !edited">
            <AppButton look="main" @click="placing = 'item'">Place an item <kbd>p</kbd></AppButton>
            <AppButton @click="placing = 'gallery'">Gallery <kbd>g</kbd></AppButton>
            <AppButton @click="placing = 'background'"> Background <kbd>h</kbd> </AppButton>
          </template>
        </PagePreview>
        <p v-else class="empty">This file has no preview. Its references are listed on the right.</p>
      </div>
      <aside aria-label="Placements on the page">
        <PlacingForm
          v-if="(placing === 'item' || placing === 'background') && item && spot"
          :key="`${item.id}`"
          :fitting="fitting"
          :detail="detail"
          :item="item"
          :spot="spot"
          @planned="planned = $event"
          @another="picking = true"
          @close="rest"
          @done="rest"
        />
        <GalleryForm
          v-else-if="placing === 'gallery' && (gallery || (spot && 'at' in spot))"
          :detail="detail"
          :spot="gallery ? { gallery: gallery.start } : (spot as { at: number })"
          :existing="gallery"
          @planned="planned = $event"
          @close="rest"
          @done="rest"
        />
        <PlacementForm
          v-else-if="edited"
          :key="edited.start"
          :detail="detail"
          :shown="edited"
          @planned="planned = $event"
          @close="rest"
          @done="rest"
        />
        <template v-else>
          <div class="title">
            <div>
              <h2>{{ detail.title }}</h2>
              <p class="mono soft"><PathText :path="path" /></p>
            </div>
            <AppButton look="link" @click="open(undefined)">Close</AppButton>
          </div>
          <p v-if="back"><RouterLink :to="back">Back to the record</RouterLink></p>
          <p>
            <a :href="site.servedAddress(path)" target="_blank" rel="noreferrer">Open the page as served</a>
          </p>
          <p v-if="textKindOf(path) && site.can('write')">
            <RouterLink :to="{ name: 'document', query: { path } }">Edit the text</RouterLink>
          </p>
          <template v-if="detail.broken.length">
            <h3>Broken references</h3>
            <BrokenList :broken="detail.broken" />
          </template>
          <template v-if="detail.galleries.length">
            <h3>Galleries</h3>
            <p v-for="one in detail.galleries" :key="one.start">
              {{
                'folder' in one.gallery.from
                  ? `of “${one.gallery.from.folder || 'the site’s root'}”`
                  : 'tag' in one.gallery.from
                    ? `with the tag “${one.gallery.from.tag}”`
                    : 'as gathered'
              }}:
              <span :class="{ ochre: one.added || one.gone }" class="figures"
                >{{ one.added }} new, {{ one.gone }} gone since.</span
              >
              <AppButton look="link" @click="renew(one)">Update …</AppButton>
            </p>
          </template>
          <h3>Shows</h3>
          <PlacementList
            :detail="detail"
            :chosen="chosen"
            :measured="measured"
            @choose="chosen = $event"
            @item="(id) => router.push({ query: { ...route.query, item: id } })"
            @exchange="exchange"
            @focus="focal = $event"
            @edit="edited = $event"
            @fit="fit"
          />
        </template>
      </aside>
    </template>
    <ItemPicker
      v-if="picking"
      title="The item to place"
      @choose="
        item = $event;
        picking = false;
      "
      @close="
        picking = false;
        if (!item) rest();
      "
    />
    <FocalDialog
      v-if="focal && detail"
      :item="{ ...focal, id: focal.itemId, name: focal.path.slice(focal.path.lastIndexOf('/') + 1) }"
      :places="
        detail.shown
          .filter((one) => one.itemId === focal!.itemId && one.place === 'img src')
          .map((one) => ({
            page: path,
            title: detail!.title,
            start: one.start,
            line: one.line,
            cropped: measured.some((box) => box.cropped && box.starts.includes(one.start)),
          }))
      "
      @close="focal = undefined"
    />
    <LiveDialog v-if="living" @close="living = false" />
    <LayoutDialog v-if="laying" @close="laying = false" />
  </div>
</template>

<style scoped src="./PagesSection.css"></style>
