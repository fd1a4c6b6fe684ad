<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentenceOf } from '../api/client.ts';
import { useDrafts } from '../stores/drafts.ts';
import OnlyWho from './OnlyWho.vue';
import { useSite } from '../stores/site.ts';
import AppButton from '../kit/AppButton.vue';

/** What holds for the whole site and must be known whatever one is doing: a change that stopped half way, pages that cannot be read. */
const store = useSite();
const route = useRoute();
const unsettled = computed(() => store.site?.unsettled ?? []);
const unread = computed(() => (store.site?.useUnknown === 'unread' ? store.site.unsearched : []));
const drafts = useDrafts();
/** The item whose draft is to be discarded, once that is confirmed. */
const discarding = ref<number>();
const busy = ref(false);
const fault = ref('');
/** The entry whose files are to be left as they are, once that is confirmed. */
const leaving = ref<number>();

async function settle(entryId?: number) {
  busy.value = true;
  fault.value = '';
  try {
    await api.settle(entryId === undefined ? { how: 'again' } : { how: 'leave', entryId });
    leaving.value = undefined;
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
    await store.changed();
  }
}
</script>

<template>
  <div v-if="unsettled.length || unread.length || drafts.unsent.length" class="notices">
    <div v-for="one in unsettled" :key="one.entryId" class="notice losing" role="alert">
      <p>
        <strong>A change was interrupted: {{ one.title }}.</strong>
        <span>{{ one.why }} Nothing else can be changed until this is resolved. No file is lost.</span>
      </p>
      <p v-if="fault">{{ fault }}</p>
      <p v-if="leaving === one.entryId">
        <span
          >The files stay where they are now, some at their old and some at their new address. References to
          them may be broken.</span
        >
        <AppButton danger :disabled="busy" @click="settle(one.entryId)">
          Leave the files as they are
        </AppButton>
        <AppButton @click="leaving = undefined">Cancel</AppButton>
      </p>
      <OnlyWho right="maintain">can resolve this.</OnlyWho>
      <p v-if="leaving !== one.entryId && store.may('maintain')">
        <AppButton look="main" :disabled="busy" @click="settle()">Try again</AppButton>
        <AppButton look="link" @click="leaving = one.entryId"> Leave the files as they are … </AppButton>
      </p>
    </div>
    <div v-if="unread.length" class="notice" role="status">
      <p>
        <strong
          >{{ unread.length === 1 ? '1 file can’t be read' : `${unread.length} files can’t be read` }}, so it
          is not known what is unused.
        </strong>
        <span
          >Nothing is offered for cleaning until {{ unread.length === 1 ? 'it can' : 'they can' }}:
          {{ unread.slice(0, 3).join(', ')
          }}{{ unread.length > 3 ? ` and ${unread.length - 3} more` : '' }}.</span
        >
      </p>
    </div>
    <div v-for="draft in drafts.unsent" :key="draft.item" class="notice" role="status">
      <p>
        <strong>Your text for {{ draft.name }} is not saved yet.</strong>
        <span>{{
          store.connected
            ? (drafts.faults.get(draft.item) ?? '')
            : 'It is kept in this browser, and saved when the server answers again.'
        }}</span>
        <AppButton :disabled="!store.connected" @click="drafts.send(draft.item)">Save now</AppButton>
        <RouterLink :to="{ query: { ...route.query, item: draft.item } }">Open</RouterLink>
        <AppButton v-if="discarding !== draft.item" look="link" @click="discarding = draft.item"
          >Discard …</AppButton
        >
        <AppButton v-else danger @click="drafts.drop(draft.item)">Discard this text for good</AppButton>
      </p>
    </div>
  </div>
</template>

<style scoped>
.notices {
  grid-area: notice;
}
.notice {
  padding: 8px 16px;
  border-bottom: 1px solid var(--rule-strong);
  border-left: 3px solid var(--ochre);
  background: var(--paper-raised);
}
.notice.losing {
  border-left-color: var(--madder);
}
.notice p {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  margin: 0 0 4px;
}
</style>
