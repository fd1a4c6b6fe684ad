<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { blankDocument, NEW_DOCUMENTS, type NewDocument } from '../../../core/document/new-document.ts';
import { extensionOf } from '../../../core/address/path.ts';
import type { Group } from '../../../core/find/query.ts';
import { trim } from '../../../core/text/cut.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppRadio from '../../kit/AppRadio.vue';
import ItemPicker from '../../parts/ItemPicker.vue';
import { useIntake } from '../../stores/intake.ts';

/** A document that begins here, empty or as another one is. It comes in as any file does: checked, named by the rule of its folder. */
const emit = defineEmits<{ close: [] }>();
const intake = useIntake();
const open = computed({ get: () => true, set: () => emit('close') });
const kind = ref<NewDocument>('text');
const title = ref('');
const folder = ref(intake.folder);
const template = ref<ItemView>();
const picking = ref(false);
const busy = ref(false);
const fault = ref('');
const DOCUMENTS: Group = {
  join: 'all',
  not: false,
  of: [{ test: 'kind', value: 'document', not: false }],
};

async function create() {
  const name = title.value.trim();
  if (name === '') {
    fault.value = 'Enter a title.';
    return;
  }
  busy.value = true;
  fault.value = '';
  try {
    const from = template.value;
    const { extension, mime } = NEW_DOCUMENTS[kind.value];
    const bytes = from ? await bytesOf(from) : new Blob([blankDocument(kind.value, name) as BlobPart]);
    const end = from ? extensionOf(from.path) : extension;
    const file = new File([bytes], `${name.replace(/[\\/]/g, '-')}${end}`, { type: from ? '' : mime });
    intake.folder = trim(folder.value.trim(), '/');
    await intake.addTitled(file, name);
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
  }
}
async function bytesOf({ id }: ItemView): Promise<Blob> {
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
      <fieldset v-if="!template">
        <legend>Kind</legend>
        <AppRadio
          v-for="({ label }, of) in NEW_DOCUMENTS"
          :key="of"
          v-model="kind"
          name="new-kind"
          :value="of"
          >{{ label }}</AppRadio
        >
      </fieldset>
      <p class="from">
        <template v-if="template"
          >Starts as a copy of <span class="mono">{{ template.path }}</span>.
          <AppButton look="link" @click="template = undefined">Start blank</AppButton></template
        >
        <AppButton v-else look="link" @click="picking = true">Start from an existing document …</AppButton>
      </p>
      <label class="field"
        >Folder
        <AppInput
          v-model="folder"
          class="mono"
          list="intake-folders"
          spellcheck="false"
          placeholder="the site’s root"
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
      :where="DOCUMENTS"
      @choose="
        template = $event;
        picking = false;
      "
      @close="picking = false"
    />
  </AppDialog>
</template>
