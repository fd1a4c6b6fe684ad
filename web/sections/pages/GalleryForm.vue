<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import Sortable from 'sortablejs';
import type { ItemView } from '../../../api/items.ts';
import type { GalleryView, PageDetail } from '../../../api/pages.ts';
import { api, sentenceOf } from '../../api/client.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count } from '../../parts/words.ts';
import { useTray } from '../../stores/tray.ts';
import { usePlanned } from './usePlanned.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppRadio from '../../kit/AppRadio.vue';
import AppSelect from '../../kit/AppSelect.vue';

/** A gallery of a folder, a tag or what is gathered: its order, its small images, its captions. */
const props = defineProps<{
  detail: PageDetail;
  spot: { at: number } | { gallery: number };
  /** The gallery that stands there, made anew. */
  existing: PageDetail['galleries'][number] | undefined;
}>();
const emit = defineEmits<{ planned: [id: string | undefined]; done: []; close: [] }>();
const tray = useTray();

const was = props.existing?.gallery;
const kindOf = (from: GalleryView['from']) => ('folder' in from ? 'folder' : 'tag' in from ? 'tag' : 'tray');
const from = ref<'folder' | 'tag' | 'tray'>(was ? kindOf(was.from) : tray.size > 0 ? 'tray' : 'folder');
const folder = ref(was && 'folder' in was.from ? was.from.folder : '');
const tag = ref(was && 'tag' in was.from ? was.from.tag : '');
const side = ref(was?.side ?? 320);
const quality = ref(was?.quality ?? 80);
const captions = ref(was?.captions ?? true);
const classes = ref(was?.classes ?? '');
const items = ref<ItemView[]>([]);
const folders = ref<string[]>([]);
const tags = ref<string[]>([]);
/** Why its images could not be asked for. */
const trouble = ref('');

onMounted(async () => {
  folders.value = (await api.folders()).filter((one) => one.items > 0).map((one) => one.folder);
  tags.value = (await api.tags()).map((one) => one.name);
});
let first = true;
watch(
  [from, folder, tag],
  async () => {
    trouble.value = '';
    try {
      const ids =
        first && props.existing
          ? props.existing.itemIds
          : from.value === 'tray'
            ? [...tray.ids]
            : from.value === 'tag' && tag.value === ''
              ? []
              : await api.galleryMembers(
                  from.value === 'tag' ? { tag: tag.value } : { folder: folder.value },
                );
      first = false;
      const found = new Map<number, ItemView>();
      for (let at = 0; at < ids.length; at += 100)
        for (const one of await api.itemsSome(ids.slice(at, at + 100))) found.set(one.id, one);
      items.value = ids
        .map((id) => found.get(id))
        .filter((one) => one !== undefined && one.kind === 'image') as ItemView[];
    } catch (error) {
      trouble.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

const list = ref<HTMLElement>();
let sortable: Sortable | undefined;
onMounted(() => {
  sortable = Sortable.create(list.value!, {
    animation: 120,
    onEnd({ oldIndex, newIndex }) {
      if (oldIndex === undefined || newIndex === undefined || oldIndex === newIndex) return;
      move(oldIndex, newIndex);
    },
  });
});
onUnmounted(() => sortable?.destroy());
function move(at: number, to: number) {
  if (to < 0 || to >= items.value.length) return;
  const next = [...items.value];
  next.splice(to, 0, ...next.splice(at, 1));
  items.value = next;
}
function onKey(event: KeyboardEvent, at: number) {
  const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
  if (by === undefined || !event.altKey) return;
  event.preventDefault();
  move(at, at + by);
  requestAnimationFrame(() => list.value?.querySelectorAll<HTMLElement>('.grip')[at + by]?.focus());
}

const gallery = computed<GalleryView>(() => ({
  from:
    from.value === 'tray'
      ? { gathered: true }
      : from.value === 'tag'
        ? { tag: tag.value }
        : { folder: folder.value },
  side: side.value,
  quality: quality.value,
  captions: captions.value,
  classes: classes.value.trim(),
}));
const { made, fault, busy, write } = usePlanned(
  () =>
    items.value.length === 0
      ? undefined
      : {
          kind: 'gallery',
          page: props.detail.path,
          spot: props.spot,
          ...gallery.value,
          itemIds: items.value.map((one) => one.id),
        },
  (id) => emit('planned', id),
  () => emit('done'),
);
</script>

<template>
  <form class="placing" @submit.prevent="write" @keydown.escape.stop="emit('close')">
    <h2>{{ existing ? 'Edit gallery' : 'Place a gallery' }}</h2>
    <p v-if="existing" class="soft figures">
      {{ count(existing.added, 'image') }} new since it was made, {{ existing.gone }} gone.
    </p>
    <fieldset>
      <legend>Images</legend>
      <AppRadio v-model="from" value="folder" name="from"> of a folder</AppRadio>
      <label v-if="from === 'folder'">
        <span class="hidden-words">Folder of the gallery</span>
        <AppSelect v-model="folder" filterable class="mono"
          ><AppOption v-for="one in folders" :key="one" :value="one" :label="one || 'the site’s root'" />
        </AppSelect>
      </label>
      <AppRadio v-model="from" value="tag" name="from"> with a tag</AppRadio>
      <label v-if="from === 'tag'">
        <span class="hidden-words">Tag of the gallery</span>
        <AppSelect v-model="tag" filterable
          ><AppOption v-for="one in tags" :key="one" :value="one" :label="one" />
        </AppSelect>
      </label>
      <AppRadio v-model="from" value="tray" name="from"> from the tray</AppRadio>
    </fieldset>
    <p class="soft figures" role="status">
      {{ count(items.length, 'image') }}. Drag to reorder, or use Alt + arrow keys.
    </p>
    <ul ref="list" class="order">
      <li v-for="(item, at) in items" :key="item.id">
        <AppButton
          look="tile"
          class="grip"
          :aria-label="`${item.name}, ${at + 1} of ${items.length}`"
          @keydown="onKey($event, at)"
          ><ItemPicture :sha256="item.sha256" :kind="item.kind" :name="item.name" />
        </AppButton>
        <AppButton
          look="tile"
          class="off"
          :aria-label="`Leave out ${item.name}`"
          @click="items = items.filter((one) => one !== item)"
        >
          ×
        </AppButton>
      </li>
    </ul>
    <fieldset>
      <legend>Thumbnails</legend>
      <label>Longer side <AppNumber v-model="side" class="short" :min="40" :max="4000" /> px</label>
      <label>Quality <AppNumber v-model="quality" class="short" :min="1" :max="100" /></label>
      <AppCheckbox v-model="captions"> with captions</AppCheckbox>
      <label
        >Classes
        <AppInput v-model="classes" class="mono" maxlength="200" spellcheck="false" placeholder="none"
      /></label>
    </fieldset>
    <p v-if="made && !fault" class="soft figures">
      {{ made.created.length ? `${count(made.created.length, 'thumbnail')} will be made; the` : 'The' }}
      page needs no script.
    </p>
    <p v-if="fault || trouble" class="note losing" role="alert">{{ fault || trouble }}</p>
    <div class="buttons">
      <AppButton
        look="main"
        type="submit"
        :disabled="busy || fault !== '' || !made || made.empty || items.length === 0"
        >{{ existing ? 'Update gallery' : 'Save gallery to page' }}
      </AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </div>
    <p v-if="busy" class="soft" role="status">Working …</p>
  </form>
</template>

<style scoped>
.placing {
  display: grid;
  gap: 8px;
}
h2,
p {
  margin: 0;
}
fieldset {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
}
.short {
  width: 76px;
}
.order {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(72px, 1fr));
  gap: 6px;
  max-height: 210px;
  margin: 0;
  padding: 2px;
  overflow: auto;
  list-style: none;
}
.order li {
  position: relative;
}
.grip {
  display: block;
  width: 100%;
  padding: 2px;
  border: 1px solid var(--rule);
  background: var(--paper-raised);
  cursor: grab;
}
.grip :deep(img),
.grip :deep(svg) {
  width: 100%;
  height: 48px;
  object-fit: cover;
}
.off {
  position: absolute;
  top: 2px;
  right: 2px;
  width: 24px;
  height: 24px;
  border: 0;
  background: var(--paper);
  color: var(--ink);
  cursor: pointer;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
