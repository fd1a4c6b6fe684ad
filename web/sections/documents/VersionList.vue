<script setup lang="ts">
import { ref, watch } from 'vue';
import type { DocumentVersion, DocumentView } from '../../../api/documents.ts';
import { draftAsText } from '../../../core/sheet/edits.ts';
import { wordDraftAsText } from '../../../core/word/draft.ts';
import { documentsApi } from '../../api/documents.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { moment } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import LineCompare from './LineCompare.vue';

/** What became of a document: who, when, with which note, what changed. Two can be compared, and one taken back into the editor. */
const props = defineProps<{ document: DocumentView; locked: boolean }>();
const emit = defineEmits<{ take: [text: string] }>();
const site = useSite();
const versions = ref<DocumentVersion[]>();
const fault = ref('');
watch(
  [() => props.document.path, () => props.document.sha256, () => site.revision],
  async () => {
    try {
      versions.value = await documentsApi.versions(props.document.path);
      fault.value = '';
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

const compared = ref<{ from: string; to: string; before: string; after: string }>();
async function compare(from: string, to: string) {
  try {
    const [before, after] = [
      await documentsApi.text(props.document.path, from),
      await documentsApi.text(props.document.path, to),
    ];
    compared.value = { from, to, before: before.text, after: after.text };
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
/** Every text that it had, the newest first. */
function texts() {
  const all = new Map<string, string>([[props.document.sha256, 'as it is now']]);
  for (const { before, after, at, person } of versions.value ?? []) {
    if (!all.has(after)) all.set(after, `${moment(at)}, ${person}`);
    if (!all.has(before)) all.set(before, `before ${moment(at)}`);
  }
  return [...all].map(([sha256, label]) => ({ sha256, label }));
}
async function take(sha256: string) {
  const { kind } = props.document;
  if (kind === 'workbook') return emit('take', draftAsText({ from: sha256, edits: [] }));
  if (kind === 'word') return emit('take', wordDraftAsText({ from: sha256, blocks: undefined }));
  try {
    emit('take', (await documentsApi.text(props.document.path, sha256)).text);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <section aria-label="Versions">
    <h2>Versions</h2>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="versions?.length === 0" class="soft">It has not been changed here yet.</p>
    <ol v-else>
      <li v-for="one in versions" :key="one.entryId" :class="{ undone: one.undone }">
        <p class="soft figures">{{ moment(one.at) }}, {{ one.person }}{{ one.undone ? ' (undone)' : '' }}</p>
        <p>
          <strong>{{ one.changes ?? one.title }}</strong>
        </p>
        <p v-if="one.note">“{{ one.note }}”</p>
        <p v-if="one.changes" class="acts">
          <AppButton look="link" @click="compare(one.before, one.after)">Show what changed</AppButton>
          <AppButton v-if="!locked" look="link" @click="take(one.before)">Edit previous version</AppButton>
        </p>
      </li>
    </ol>
    <AppDialog
      v-if="compared"
      :model-value="true"
      width="860px"
      top="6vh"
      title="What changed"
      @update:model-value="compared = undefined"
    >
      <div class="which">
        <label
          >From
          <AppSelect :model-value="compared.from" :chars="26" @change="compare($event, compared.to)"
            ><AppOption v-for="one in texts()" :key="one.sha256" :value="one.sha256" :label="one.label" />
          </AppSelect>
        </label>
        <label
          >to
          <AppSelect :model-value="compared.to" :chars="26" @change="compare(compared.from, $event)"
            ><AppOption v-for="one in texts()" :key="one.sha256" :value="one.sha256" :label="one.label" />
          </AppSelect>
        </label>
      </div>
      <p v-if="compared.before === compared.after" class="soft">Both say the same.</p>
      <LineCompare v-else :before="compared.before" :after="compared.after" label="Lines that changed" />
    </AppDialog>
  </section>
</template>

<style scoped>
h2 {
  margin: 0 0 8px;
  font-size: 15px;
}
ol {
  display: grid;
  margin: 0;
  padding: 0;
  gap: 14px;
  list-style: none;
}
li p {
  margin: 0;
}
.undone strong {
  font-weight: normal;
  text-decoration: line-through;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
.which {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  margin-bottom: 12px;
  gap: 8px 16px;
}
</style>
