<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import PathText from './PathText.vue';
import { PhCopySimple, PhX } from '@phosphor-icons/vue';
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ItemDetail } from '../../api/items.ts';
import { REVIEW_NAMES } from '../../core/plan/words.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import AddressForm from './AddressForm.vue';
import CommentList from './CommentList.vue';
import CareMarks from './CareMarks.vue';
import MadePdf from './MadePdf.vue';
import RecordActs from './RecordActs.vue';
import RecordFacts from './RecordFacts.vue';
import StandsOn from './StandsOn.vue';
import ItemPicture from './ItemPicture.vue';
import ItemVersions from './ItemVersions.vue';
import GuessedRoot from './GuessedRoot.vue';
import FamilyMembers from './FamilyMembers.vue';
import WordsForm from './WordsForm.vue';
import { moment, STATE_WORDS, USE_WORDS } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppPaneEdge from '../kit/AppPaneEdge.vue';
import { isCovered } from '../kit/screen.ts';
import { laterPart } from '../kit/later.ts';

const LookCloser = laterPart(() => import('./LookCloser.vue'));

const props = defineProps<{ itemId: number }>();
const site = useSite();
const plan = usePlan();
const router = useRouter();
const route = useRoute();

const detail = ref<ItemDetail>();
const fault = ref('');
const moving = ref(false);
const looking = ref(false);
const copied = ref('');

async function load() {
  try {
    detail.value = await api.item(props.itemId);
    fault.value = '';
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch([() => props.itemId, () => site.revision, () => site.submissions], load, { immediate: true });

const item = computed(() => detail.value?.item);
const served = computed(() => (item.value ? site.contentAddress(item.value) : ''));
const playable = computed(() => item.value?.state === 'here' || item.value?.state === 'draft');
const mine = computed(() => item.value?.state === 'draft' && site.may('bring-in'));

function close() {
  void router.push({ query: { ...route.query, item: undefined } });
}
async function copyAddress() {
  if (!detail.value) return;
  try {
    await navigator.clipboard.writeText(detail.value.address);
    copied.value = 'Address copied.';
  } catch {
    // Browsers refuse on insecure origins and without permission; the address itself can still be selected.
    copied.value = 'The browser blocked copying. Select the address and copy it yourself.';
  }
  setTimeout(() => (copied.value = ''), 4000);
}

function onKey(event: KeyboardEvent) {
  const at = event.target as HTMLElement;
  if (looking.value || document.querySelector('.closer')) return;
  if (event.key === 'Escape' && !isCovered()) {
    if (at.closest?.('input, textarea')) at.blur();
    else close();
    return;
  }
  if (event.ctrlKey || event.metaKey || event.altKey || at.closest?.('input, textarea, select')) return;
  if (event.key === 'a') void copyAddress();
  const edits = item.value?.state === 'here' ? site.may('clean') : mine.value;
  if (event.key === 'b' && item.value?.kind === 'image' && edits)
    void router.push({ name: 'edit', params: { id: item.value.id } });
  if (event.key === 'n' && ((item.value?.state === 'here' && site.can('organise')) || mine.value)) {
    event.preventDefault();
    moving.value = true;
  }
}
useEventListener('keydown', onKey);
</script>

<template>
  <aside class="record" aria-label="Record">
    <AppPaneEdge />
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <template v-if="detail && item">
      <header>
        <h2 class="mono"><PathText :path="item.name" /></h2>
        <AppButton look="glyph" title="Close the record (Escape)" aria-label="Close the record" @click="close"
          ><PhX :size="16" />
        </AppButton>
      </header>
      <div class="preview">
        <!-- The site's own videos may lack captions; the person looks at the file as it is. -->
        <video v-if="item.kind === 'video' && playable" :src="served" controls preload="metadata"></video>
        <audio
          v-else-if="item.kind === 'audio' && playable"
          :src="served"
          controls
          preload="metadata"
        ></audio>
        <ItemPicture
          v-else
          :sha256="item.sha256"
          :kind="item.kind"
          :name="item.name"
          :placeholder="item.placeholder"
          :size="1280"
          :alt="item.words.alt || `Preview of ${item.name}`"
        />
      </div>
      <div class="line">
        <CareMarks :marks="item.marks" />
        <span class="soft"
          >{{ item.state === 'here' ? USE_WORDS[item.use] : STATE_WORDS[item.state]
          }}{{ item.review ? `; ${REVIEW_NAMES[item.review]}` : '' }}</span
        >
      </div>
      <p v-if="item.unreadable" class="note">{{ item.unreadable }}</p>
      <RecordActs :detail="detail" :served="served" @look="looking = true" @rename="moving = true" />

      <section>
        <div class="line">
          <code class="mono address"><PathText :path="detail.address" /></code>
          <AppButton
            look="glyph"
            title="Copy the address (A)"
            aria-label="Copy the address"
            @click="copyAddress"
            ><PhCopySimple :size="16" />
          </AppButton>
        </div>
        <p class="soft" role="status">{{ copied }}</p>
        <GuessedRoot />
        <ul v-if="detail.nameFaults.length" class="faults">
          <li v-for="one in detail.nameFaults" :key="one">{{ one }}</li>
        </ul>
        <AddressForm
          v-if="moving && (item.state === 'here' || mine)"
          :key="item.path"
          :detail="detail"
          @close="moving = false"
        />
        <p v-for="one in detail.proposals" :key="one.id" class="note">
          Waits for approval, proposed by {{ one.person }}, {{ moment(one.at) }}: {{ one.title }}.
          <AppButton look="link" :aria-label="`Review: ${one.title}`" @click="plan.look(one.id)"
            >Review …</AppButton
          >
        </p>
        <div v-if="item.state === 'draft'" class="line">
          <AppButton
            v-if="site.can('publish')"
            look="main"
            @click="plan.propose({ kind: 'publish', itemIds: [item.id] })"
            >{{ site.may('publish') ? 'Publish …' : 'Propose to publish …' }}
          </AppButton>
          <AppButton v-if="mine" danger @click="plan.propose({ kind: 'discard', itemIds: [item.id] })"
            >Discard …
          </AppButton>
        </div>
        <AppButton
          v-if="item.state === 'aside' && site.can('clean')"
          @click="plan.propose({ kind: 'restore', itemIds: [item.id] })"
        >
          Restore …
        </AppButton>
      </section>

      <FamilyMembers v-if="detail.family.of" :detail="detail" />
      <section v-else>
        <h3>Description</h3>
        <WordsForm :key="item.id" :item="item" :unconfirmed="detail.unconfirmed" rights />
      </section>

      <MadePdf
        v-if="detail.item.state === 'here'"
        :path="detail.item.path"
        :made-from="detail.madeFrom"
        :pdfs="detail.pdfs"
      />

      <StandsOn v-if="item.state === 'here'" :detail="detail" />

      <FamilyMembers v-if="!detail.family.of" :detail="detail" />

      <CommentList :key="item.id" :detail="detail" />

      <section>
        <h3>Versions</h3>
        <ItemVersions :item="item" />
      </section>

      <RecordFacts :detail="detail" />
    </template>
    <LookCloser v-if="looking && item" :ids="[item.id]" @close="looking = false" />
  </aside>
</template>

<style scoped>
.record {
  display: flex;
  height: 100%;
  min-height: 0;
  flex-direction: column;
  gap: 12px;
  padding: 12px 16px 32px;
  overflow: auto;
}
header,
.line {
  display: flex;
  align-items: center;
  gap: 10px;
}
header h2 {
  flex: 1;
  font-size: 14px;
}
@media (width <= 760px) {
  .record {
    position: fixed;
    z-index: 9;
    width: auto;
    background: var(--paper);
    inset: 0;
  }
}
.preview {
  flex: none;
  height: 212px;
}
.preview video,
.preview audio {
  width: 100%;
  max-height: 100%;
}
section {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding-top: 10px;
  border-top: 1px solid var(--rule);
}
.address {
  flex: 1;
}
.faults {
  margin: 0;
  padding-left: 16px;
  color: var(--ochre);
  font-size: 13px;
}
</style>
