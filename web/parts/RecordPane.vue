<script setup lang="ts">
import { PhCopySimple, PhX } from '@phosphor-icons/vue';
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ItemDetail } from '../../api/items.ts';
import { encodePath } from '../../core/address/path.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import AddressForm from './AddressForm.vue';
import CareMarks from './CareMarks.vue';
import ItemPicture from './ItemPicture.vue';
import ItemVersions from './ItemVersions.vue';
import LookCloser from './LookCloser.vue';
import WordsForm from './WordsForm.vue';
import { clock, count, moment, USE_WORDS, weight } from './words.ts';

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
watch([() => props.itemId, () => site.revision], load, { immediate: true });

const item = computed(() => detail.value?.item);
const served = computed(() =>
  item.value && site.site ? `${site.site.servedAt}/${encodePath(item.value.path)}` : '',
);

function close() {
  void router.push({ query: { ...route.query, item: undefined } });
}
async function copyAddress() {
  if (!detail.value) return;
  try {
    await navigator.clipboard.writeText(detail.value.address);
    copied.value = 'The address is copied.';
  } catch {
    // Browsers refuse on insecure origins and without permission; the address itself can still be selected.
    copied.value = 'This browser does not let pages copy. Select the address and copy it yourself.';
  }
  setTimeout(() => (copied.value = ''), 4000);
}

async function giveTo(event: Event) {
  const owner = (event.target as HTMLSelectElement).value || null;
  try {
    await plan.make({ kind: 'records', itemIds: [props.itemId], owner });
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}

function onKey(event: KeyboardEvent) {
  const at = event.target as HTMLElement;
  if (looking.value || document.querySelector('.closer')) return;
  if (event.key === 'Escape' && !document.querySelector('.el-overlay:not([style*="display: none"])')) {
    if (at.closest?.('input, textarea')) at.blur();
    else close();
    return;
  }
  if (event.ctrlKey || event.metaKey || event.altKey || at.closest?.('input, textarea, select')) return;
  if (event.key === 'a') void copyAddress();
  if (event.key === 'n' && item.value?.state === 'here') {
    event.preventDefault();
    moving.value = true;
  }
}
onMounted(() => window.addEventListener('keydown', onKey));
onUnmounted(() => window.removeEventListener('keydown', onKey));
</script>

<template>
  <aside class="record" aria-label="Record">
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <template v-if="detail && item">
      <header>
        <h2 class="mono">{{ item.name }}</h2>
        <button
          class="plain"
          type="button"
          title="Close the record (Escape)"
          aria-label="Close the record"
          @click="close"
        >
          <PhX :size="16" />
        </button>
      </header>
      <div class="preview">
        <!-- The site's own films may lack captions; the person looks at the file as it is. -->
        <video
          v-if="item.kind === 'video' && item.state === 'here'"
          :src="served"
          controls
          preload="metadata"
        ></video>
        <audio
          v-else-if="item.kind === 'audio' && item.state === 'here'"
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
        <span class="soft">{{
          item.state === 'here'
            ? USE_WORDS[item.use]
            : item.state === 'aside'
              ? 'set aside'
              : 'not on the site'
        }}</span>
        <a v-if="item.state === 'here'" :href="served" target="_blank" rel="noreferrer">Open the file</a>
        <a class="beside" :href="`/api/items/${item.id}/file`" download>Download</a>
      </div>
      <div class="line wrap">
        <button class="link" type="button" @click="looking = true">
          {{ item.kind === 'document' ? 'Read it here' : 'Look closer' }}
        </button>
        <RouterLink
          v-if="item.kind === 'image'"
          :to="{ name: 'library', query: { where: `like:${item.id}`, item: item.id } }"
          >What looks like it</RouterLink
        >
      </div>
      <p v-if="item.unreadable" class="note">{{ item.unreadable }}</p>

      <section>
        <div class="line">
          <code class="mono address">{{ detail.address }}</code>
          <button
            class="plain"
            type="button"
            title="Copy the address (A)"
            aria-label="Copy the address"
            @click="copyAddress"
          >
            <PhCopySimple :size="16" />
          </button>
        </div>
        <p class="soft" role="status">{{ copied }}</p>
        <ul v-if="detail.nameFaults.length" class="faults">
          <li v-for="one in detail.nameFaults" :key="one">{{ one }}</li>
        </ul>
        <template v-if="item.state === 'here'">
          <AddressForm v-if="moving" :key="item.path" :detail="detail" @close="moving = false" />
          <button v-else class="act quiet" type="button" @click="moving = true">
            Name or move … <kbd>N</kbd>
          </button>
        </template>
        <button
          v-if="item.state === 'aside'"
          class="act quiet"
          type="button"
          @click="plan.propose({ kind: 'restore', itemIds: [item.id] })"
        >
          Restore …
        </button>
      </section>

      <section>
        <h3>Words</h3>
        <WordsForm :key="item.id" :item="item" rights />
      </section>

      <section v-if="item.state === 'here'">
        <h3>Stands on {{ count(item.placements, 'place') }}</h3>
        <ol v-if="detail.placements.length" class="clippings">
          <li v-for="(one, index) in detail.placements" :key="index">
            <a :href="`${site.site?.servedAt}/${encodePath(one.page)}`" target="_blank" rel="noreferrer">{{
              one.pageTitle || one.page
            }}</a>
            <span class="mono soft">{{ one.page }}, line {{ one.line }}, {{ one.place }}</span>
            <p v-if="one.before || one.after" class="text">{{ one.before }} <mark>▣</mark> {{ one.after }}</p>
            <p v-if="one.place === 'img src' && !one.hasAlt" class="ochre">
              The page gives no alt text here.
            </p>
            <p v-else-if="one.alt" class="soft">alt on the page: “{{ one.alt }}”</p>
          </li>
        </ol>
        <p v-if="item.placements > detail.placements.length" class="soft">
          and {{ item.placements - detail.placements.length }} more
        </p>
        <p v-if="!detail.placements.length" class="soft">
          No page refers to it{{ item.use === 'placed' ? '; browsers ask for it by convention' : '' }}.
        </p>
        <template v-if="detail.mentions.length">
          <h3>Mentioned in text</h3>
          <ul class="clippings">
            <li v-for="(one, index) in detail.mentions" :key="index" class="mono">
              {{ one.page }}, line {{ one.line }}
            </li>
          </ul>
        </template>
        <template v-if="detail.copies.length">
          <h3>Same bytes as</h3>
          <ul class="clippings">
            <li v-for="one in detail.copies" :key="one.id">
              <RouterLink class="mono" :to="{ query: { ...route.query, item: one.id } }">{{
                one.path
              }}</RouterLink>
            </li>
          </ul>
        </template>
      </section>

      <section>
        <h3>Versions</h3>
        <ItemVersions :item="item" />
      </section>

      <section>
        <h3>Facts</h3>
        <dl class="facts figures">
          <dt>Kind</dt>
          <dd>{{ item.kind }}, {{ item.mime }}</dd>
          <template v-if="item.width">
            <dt>Size</dt>
            <dd>{{ item.width }} × {{ item.height }} px</dd>
          </template>
          <template v-if="item.duration">
            <dt>Length</dt>
            <dd>{{ clock(item.duration) }}</dd>
          </template>
          <template v-if="detail.content">
            <template v-if="detail.content.pages">
              <dt>Pages</dt>
              <dd>{{ detail.content.pages }}</dd>
            </template>
            <template v-if="detail.content.frames > 1">
              <dt>Frames</dt>
              <dd>{{ detail.content.frames }}</dd>
            </template>
            <template v-if="detail.content.codecs">
              <dt>Codecs</dt>
              <dd>{{ detail.content.codecs }}</dd>
            </template>
            <template v-if="detail.content.takenAt">
              <dt>Taken</dt>
              <dd>{{ moment(detail.content.takenAt) }}</dd>
            </template>
            <template v-if="detail.content.profile">
              <dt>Colour profile</dt>
              <dd>{{ detail.content.profile }}</dd>
            </template>
            <template v-if="detail.content.colours.length">
              <dt>Colours</dt>
              <dd class="colours">
                <span
                  v-for="colour in detail.content.colours"
                  :key="colour"
                  :style="{ background: colour }"
                  :title="colour"
                  role="img"
                  :aria-label="colour"
                ></span>
              </dd>
            </template>
          </template>
          <dt>Weight</dt>
          <dd>{{ weight(item.bytes) }} ({{ item.bytes.toLocaleString('en') }} bytes)</dd>
          <dt><label for="record-owner">In care of</label></dt>
          <dd>
            <select id="record-owner" :value="item.owner ?? ''" @change="giveTo">
              <option value="">nobody</option>
              <option v-for="person in site.site?.people ?? []" :key="person.id" :value="person.name">
                {{ person.name }}
              </option>
            </select>
          </dd>
          <dt>Added</dt>
          <dd>{{ moment(item.addedAt) }}, {{ item.addedBy ?? 'found on the site' }}</dd>
          <template v-if="item.originalName && item.originalName !== item.name">
            <dt>Came as</dt>
            <dd class="mono">{{ item.originalName }}</dd>
          </template>
          <template v-if="detail.hasOriginal">
            <dt>Original</dt>
            <dd><a :href="`/api/items/${item.id}/original`" download>kept as it was sent</a></dd>
          </template>
          <template v-if="item.changedAt">
            <dt>Changed</dt>
            <dd>{{ moment(item.changedAt) }}, {{ item.changedBy }}</dd>
          </template>
        </dl>
        <p v-for="one in detail.content?.notes ?? []" :key="one" class="soft">{{ one }}</p>
        <template v-if="detail.content?.excerpt">
          <h3>Begins with</h3>
          <p class="soft excerpt">{{ detail.content.excerpt }} …</p>
        </template>
      </section>
    </template>
    <LookCloser v-if="looking && item" :ids="[item.id]" @close="looking = false" />
  </aside>
</template>

<style scoped>
.colours {
  display: flex;
  gap: 3px;
}
.colours span {
  width: 26px;
  height: 16px;
  border: 1px solid var(--rule-strong);
}
.excerpt {
  max-height: 130px;
  overflow: hidden;
  white-space: pre-line;
}
.record {
  display: flex;
  width: var(--record);
  min-height: 0;
  grid-area: record;
  flex-direction: column;
  gap: 12px;
  padding: 12px 16px 32px;
  border-left: 1px solid var(--rule-strong);
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
  word-break: break-all;
}
.line a {
  margin-left: auto;
}
.line a.beside,
.wrap a {
  margin-left: 0;
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
  word-break: break-all;
}
.faults {
  margin: 0;
  padding-left: 16px;
  color: var(--ochre);
  font-size: 13px;
}
.clippings {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.clippings li {
  padding: 6px 10px;
  background: var(--paper-raised);
  border-left: 2px solid var(--rule-strong);
}
.clippings span {
  display: block;
  word-break: break-all;
}
.text {
  font-size: 13px;
}
mark {
  background: none;
  color: var(--verdigris);
}
.ochre {
  color: var(--ochre);
}
.facts {
  display: grid;
  margin: 0;
  grid-template-columns: 72px 1fr;
  gap: 3px 8px;
}
.facts select {
  max-width: 100%;
  height: 26px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper-raised);
}
.facts dt {
  color: var(--ink-soft);
}
.facts dd {
  margin: 0;
  word-break: break-word;
}
</style>
