<script setup lang="ts">
import { ref, watch } from 'vue';
import type { ItemView, VersionView } from '../../api/items.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import { count, moment } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';
import { laterPart } from '../kit/later.ts';

const LookCloser = laterPart(() => import('./LookCloser.vue'));

/** What became of an item, the newest first: who, when, what changed; to be looked at, compared and brought back. */
const props = defineProps<{ item: ItemView }>();
const site = useSite();
const plan = usePlan();
const versions = ref<VersionView[]>([]);
const fault = ref('');
/** So many are shown until more are asked for. */
const FEW = 4;
const shown = ref(FEW);
watch(
  [() => props.item.id, () => site.revision],
  async () => {
    try {
      versions.value = await api.versions(props.item.id);
      fault.value = '';
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
/** A version whose bytes are looked at beside those of now. */
const looked = ref<VersionView>();
const noting = ref<{ entryId: number; text: string }>();
async function note() {
  const { entryId, text } = noting.value!;
  noting.value = undefined;
  try {
    await api.setNote(entryId, text);
    const version = versions.value.find((one) => one.entryId === entryId);
    if (version) version.note = text.trim();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div class="versions">
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <ol>
      <li v-for="one in versions.slice(0, shown)" :key="one.entryId" :class="{ undone: one.undone }">
        <p class="figures soft">{{ moment(one.at) }}, {{ one.person }}{{ one.undone ? ' (undone)' : '' }}</p>
        <p v-if="one.file"><strong>File replaced</strong><br />{{ one.title }}</p>
        <p v-if="one.moved" class="mono path">
          <del>{{ one.moved.from }}</del> <ins>{{ one.moved.to }}</ins>
        </p>
        <p v-for="field in one.fields" :key="field.field">
          {{ field.field }}: <del v-if="field.before">{{ field.before }}</del>
          <ins>{{ field.after || '(empty)' }}</ins>
        </p>
        <p v-if="!one.file && !one.moved && one.fields.length === 0">{{ one.title }}</p>
        <form
          v-if="noting?.entryId === one.entryId"
          @submit.prevent="note"
          @keydown.escape.stop="noting = undefined"
        >
          <AppInput v-model="noting.text" maxlength="500" aria-label="Note" />
          <AppButton look="link" type="submit">Keep</AppButton>
        </form>
        <p v-else-if="one.note" class="noted">“{{ one.note }}”</p>
        <p class="acts">
          <AppButton v-if="one.file?.kept" look="link" @click="looked = one">
            Compare with previous version
          </AppButton>
          <AppButton
            v-if="item.state === 'here' && (one.fields.length || one.file?.kept) && site.can('clean')"
            look="link"
            @click="plan.propose({ kind: 'bring-back', itemId: item.id, entryId: one.entryId })"
          >
            Restore previous version …
          </AppButton>
          <AppButton
            v-if="site.may('describe')"
            look="link"
            @click="noting = { entryId: one.entryId, text: one.note }"
            >{{ one.note ? 'Edit note' : 'Add note' }}
          </AppButton>
        </p>
      </li>
    </ol>
    <p v-if="versions.length === 0 && !fault" class="soft">No changes yet.</p>
    <AppButton v-if="versions.length > shown" look="link" @click="shown += 50"
      >{{ count(versions.length - shown, 'older change') }}
    </AppButton>
    <LookCloser
      v-if="looked?.file"
      :ids="[item.id]"
      :bytes="[
        { sha256: looked.file.before, title: `before ${moment(looked.at)}` },
        ...(looked.file.after === item.sha256
          ? []
          : [{ sha256: looked.file.after, title: `after ${moment(looked.at)}` }]),
        { sha256: item.sha256, title: 'now' },
      ]"
      @close="looked = undefined"
    />
  </div>
</template>

<style scoped>
ol {
  display: flex;
  flex-direction: column;
  padding: 0;
  margin: 0;
  gap: 8px;
  list-style: none;
}
li {
  padding: 6px 10px;
  border-left: 2px solid var(--rule-strong);
  background: var(--paper-raised);
  font-size: 13px;
  overflow-wrap: anywhere;
}
.undone {
  opacity: 0.75;
}
.path {
  font-size: 12px;
}
del {
  color: var(--madder);
}
ins {
  color: var(--verdigris);
  text-decoration: none;
}
.noted {
  font-style: italic;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
form {
  display: flex;
  gap: 8px;
}
</style>
