<script setup lang="ts">
import {
  PhArrowSquareOut,
  PhBookOpenText,
  PhCode,
  PhCrop,
  PhCrosshairSimple,
  PhCursorText,
  PhDownloadSimple,
  PhMagnifyingGlassPlus,
  PhNotePencil,
  PhStackSimple,
  PhSwap,
} from '@phosphor-icons/vue';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import type { ItemDetail } from '../../api/items.ts';
import { textKindOf } from '../../core/document/document.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import AppButton from '../kit/AppButton.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';
import { laterPart } from '../kit/later.ts';

const FocalDialog = laterPart(() => import('./FocalDialog.vue'));
const ReplaceDialog = laterPart(() => import('./ReplaceDialog.vue'));

/** The toolbar of a record: what can be done with the item beside describing it. */
const props = defineProps<{ detail: ItemDetail; served: string }>();
const emit = defineEmits<{ look: []; rename: [] }>();
const plan = usePlan();
const site = useSite();
const router = useRouter();
const here = computed(() => props.detail.item.state === 'here');
const inCells = computed(() => ['table', 'workbook'].includes(textKindOf(props.detail.item.path) ?? ''));
const item = computed(() => props.detail.item);
const replacing = ref(false);
const focusing = ref(false);
const snipping = ref(false);
const form = ref<'html' | 'markdown' | 'plain'>('html');
const size = ref<'web' | 'full'>('web');
const told = ref('');

async function copy() {
  told.value = '';
  try {
    const { text } = await api.snippet(item.value.id, form.value, size.value);
    if (text === null) {
      await plan.propose({ kind: 'sizes', itemId: item.value.id });
      told.value = 'The web size is being made. Copy again in a moment.';
      return;
    }
    await navigator.clipboard.writeText(text);
    told.value = `Copied: ${text}`;
  } catch (error) {
    told.value = sentenceOf(error);
  }
}
const places = computed(() =>
  props.detail.placements
    .filter((one) => one.place === 'img src')
    .map((one) => ({ page: one.page, title: one.pageTitle || one.page, start: one.start, line: one.line })),
);
</script>

<template>
  <div class="acts">
    <div class="tools" role="toolbar" aria-label="Actions">
      <template v-if="here">
        <AppButton
          look="tool"
          title="Open the file in a new window"
          :href="served"
          target="_blank"
          rel="noreferrer"
          ><PhArrowSquareOut :size="20" />Open
        </AppButton>
      </template>
      <AppButton look="tool" title="Download the file" :href="`/api/items/${item.id}/file`" download
        ><PhDownloadSimple :size="20" />Download
      </AppButton>
      <AppButton
        look="tool"
        :title="item.kind === 'document' ? 'Read the document here' : 'Fill the window (L)'"
        @click="emit('look')"
        ><component :is="item.kind === 'document' ? PhBookOpenText : PhMagnifyingGlassPlus" :size="20" />{{
          item.kind === 'document' ? 'Read' : 'Look closer'
        }}
      </AppButton>
      <AppButton
        v-if="item.kind === 'image'"
        look="tool"
        title="Find images that look like this one"
        @click="router.push({ name: 'library', query: { where: `like:${item.id}`, item: item.id } })"
        ><PhStackSimple :size="20" />Find similar
      </AppButton>
      <AppButton
        v-if="here ? site.can('organise') : item.state === 'draft' && site.may('bring-in')"
        look="tool"
        title="Move or rename (N)"
        @click="emit('rename')"
        ><PhCursorText :size="20" />Move or rename …
      </AppButton>
      <AppButton
        v-if="
          textKindOf(item.path) && (here ? site.can('write') : item.state === 'draft' && site.may('bring-in'))
        "
        look="tool"
        :title="inCells ? 'Edit the cells of the table' : 'Edit the text of the document'"
        @click="router.push({ name: 'document', query: { path: item.path } })"
        ><PhNotePencil :size="20" />{{ inCells ? 'Edit table' : 'Edit text' }}
      </AppButton>
      <AppButton
        v-if="
          item.kind === 'image' && (here ? site.may('clean') : item.state === 'draft' && site.may('bring-in'))
        "
        look="tool"
        title="Crop, straighten, lighten, resize (B)"
        @click="router.push({ name: 'edit', params: { id: item.id } })"
        ><PhCrop :size="20" />Edit image
      </AppButton>
      <template v-if="here">
        <AppButton v-if="site.may('clean')" look="tool" title="Replace the file" @click="replacing = true"
          ><PhSwap :size="20" />Replace …
        </AppButton>
        <AppButton
          v-if="item.kind === 'image' && site.can('place')"
          look="tool"
          title="Choose what must stay visible when it is cropped"
          @click="focusing = true"
          ><PhCrosshairSimple :size="20" />Focal point …
        </AppButton>
        <AppButton
          look="tool"
          title="Code to use it elsewhere"
          :aria-expanded="snipping"
          @click="snipping = !snipping"
          ><PhCode :size="20" />Snippet …
        </AppButton>
      </template>
    </div>
    <form v-if="snipping" class="snippet" @submit.prevent="copy">
      <label>
        <span class="hidden-words">Snippet format</span>
        <AppSelect v-model="form" :chars="9"
          ><AppOption value="html" label="HTML" />
          <AppOption value="markdown" label="Markdown" />
          <AppOption value="plain" label="address" />
        </AppSelect>
      </label>
      <label v-if="item.kind === 'image'">
        <span class="hidden-words">Image size</span>
        <AppSelect v-model="size" :chars="8"
          ><AppOption value="web" label="web size" />
          <AppOption value="full" label="full size" />
        </AppSelect>
      </label>
      <AppButton type="submit">Copy</AppButton>
    </form>
    <p v-if="told" class="soft mono told" role="status">{{ told }}</p>
    <ReplaceDialog v-if="replacing" :item="item" @close="replacing = false" />
    <FocalDialog v-if="focusing" :item="item" :places="places" @close="focusing = false" />
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  gap: 2px 4px;
  grid-template-columns: repeat(4, 1fr);
}
.snippet {
  display: flex;
  width: 100%;
  gap: 6px;
}
.told {
  width: 100%;
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
