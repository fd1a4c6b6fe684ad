<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { blankDocument, NEW_DOCUMENTS, type NewDocument } from '../../../core/document/new-document.ts';
import { extensionOf } from '../../../core/address/path.ts';
import { writeQuery, type Condition, type Group } from '../../../core/find/query.ts';
import { trim } from '../../../core/text/cut.ts';
import { sentenceOf, type Query } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppRadio from '../../kit/AppRadio.vue';
import ItemPicker from '../../parts/ItemPicker.vue';
import { useIntake } from '../../stores/intake.ts';
import { useSite } from '../../stores/site.ts';
import { useFound } from '../library/useFound.ts';

/** A document that begins here, empty or as another one is. It comes in as any file does: checked, named by the rule of its folder. */
const emit = defineEmits<{ close: [] }>();
const intake = useIntake();
const open = computed({ get: () => true, set: () => emit('close') });
const title = ref('');
const folder = ref(intake.folder);
/** Blank, by its kind, or the id of the document that it begins as. */
const start = ref<NewDocument | number>('text');
const picking = ref(false);
const busy = ref(false);
const fault = ref('');
const holding = (...of: Group['of']): Group => ({ join: 'all', not: false, of });
const DOCUMENTS: Condition = { test: 'kind', value: 'document', not: false };

/** Documents with this tag are offered before all others. */
const TEMPLATE = 'template';
const MOST_TEMPLATES = 12;
const query: Query = {
  where: writeQuery(holding({ test: 'tag', value: TEMPLATE, not: false }, DOCUMENTS)),
  sort: 'path',
};
const { ids, items, need } = useFound(ref(query), () => useSite().revision);
watch(ids, () => need(0, MOST_TEMPLATES));
const picked = ref<ItemView>();
const models = computed(() => {
  const kept = [...ids.value.subarray(0, MOST_TEMPLATES)].flatMap((id) => items.get(id) ?? []);
  const other = picked.value;
  return other && !kept.some(({ id }) => id === other.id) ? [...kept, other] : kept;
});
function pick(item: ItemView) {
  picked.value = item;
  start.value = item.id;
  picking.value = false;
}

async function create() {
  const name = title.value.trim();
  if (name === '') {
    fault.value = 'Enter a title.';
    return;
  }
  busy.value = true;
  fault.value = '';
  try {
    const file = await fileOf(name, start.value);
    intake.folder = trim(folder.value.trim(), '/');
    await intake.addTitled(file, name);
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
  }
}
async function fileOf(name: string, from: NewDocument | number): Promise<File> {
  const named = (extension: string) => `${name.replace(/[\\/]/g, '-')}${extension}`;
  if (typeof from === 'string') {
    const { extension, mime } = NEW_DOCUMENTS[from];
    return new File([blankDocument(from, name).slice()], named(extension), { type: mime });
  }
  const model = models.value.find(({ id }) => id === from)!;
  return new File([await bytesOf(from)], named(extensionOf(model.path)));
}
async function bytesOf(id: number): Promise<Blob> {
  const answer = await fetch(`/api/items/${id}/file`);
  if (!answer.ok) throw new Error('The document to start from could not be read. Choose another one.');
  return answer.blob();
}
</script>

<template>
  <AppDialog v-model="open" width="520px" title="New document">
    <form id="new-document" class="fields" @submit.prevent="create">
      <label class="field"
        >Title
        <AppInput v-model="title" focused />
      </label>
      <fieldset>
        <legend>Start from</legend>
        <AppRadio
          v-for="(kind, blank) in NEW_DOCUMENTS"
          :key="blank"
          v-model="start"
          name="start"
          :value="blank"
          >{{ kind.label }}</AppRadio
        >
        <AppRadio v-for="one in models" :key="one.id" v-model="start" name="start" :value="one.id"
          ><span class="mono">{{ one.path }}</span></AppRadio
        >
        <AppButton look="link" @click="picking = true">Another document …</AppButton>
        <p class="soft">Documents tagged “{{ TEMPLATE }}” are listed here.</p>
      </fieldset>
      <label class="field"
        >Folder
        <AppInput
          v-model="folder"
          class="mono"
          list="intake-folders"
          spellcheck="false"
          placeholder="the site’s root"
          aria-label="Folder of the document"
        />
      </label>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton look="main" type="submit" form="new-document" :busy="busy">Create</AppButton>
    </template>
    <ItemPicker
      v-if="picking"
      title="Choose a document to start from"
      :where="holding(DOCUMENTS)"
      @choose="pick"
      @close="picking = false"
    />
  </AppDialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
}
fieldset {
  display: grid;
  justify-items: start;
  gap: 2px;
  margin: 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
}
fieldset :deep(.el-radio) {
  height: auto;
  padding: 3px 0;
  white-space: normal;
}
</style>
