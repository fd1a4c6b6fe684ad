<script setup lang="ts">
import { refDebounced } from '@vueuse/core';
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import type { SuggestedTagsView, TaggingState } from '../../../api/suggested-tags.ts';
import { sentenceOf } from '../../api/client.ts';
import { taggingApi, type TaggedPlace } from '../../api/services.ts';
import AppButton from '../../kit/AppButton.vue';
import AppSlider from '../../kit/AppSlider.vue';
import { laterPart } from '../../kit/later.ts';
import { count } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { offeredAt, outcomeOf, type Decision, type Outcome } from './decisions.ts';
import TagSheet from './TagSheet.vue';

const ServiceDialog = laterPart(() => import('../../parts/ServiceDialog.vue'));

/** Tags that a service suggests for some images: how sure it must be, what is taken, and what is not offered again. */
const props = defineProps<{
  place: TaggedPlace;
  ids: readonly number[];
  /** Takes what was decided. @returns whether it was done, so that the sheet begins anew */
  take: (outcome: Outcome) => Promise<boolean>;
}>();
const site = useSite();
const state = ref<TaggingState>();
const view = shallowRef<SuggestedTagsView>();
const fault = ref('');
const busy = ref(false);
const setting = ref(false);
const threshold = ref(0.6);
// While it is dragged, the figures follow at once and the pictures once it rests.
const rested = refDebounced(threshold, 120);
const decided = shallowRef<ReadonlyMap<string, Decision>>(new Map());

async function load() {
  fault.value = '';
  try {
    state.value = await taggingApi.state();
    view.value =
      state.value.isSet && props.ids.length > 0
        ? await taggingApi.suggested(props.place, props.ids)
        : undefined;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
onMounted(load);
watch(
  () => props.ids,
  () => {
    decided.value = new Map();
    void load();
  },
);
// What others change, and what is undone, is followed.
watch(() => site.revision, load);
const job = computed(() => site.running.find(({ kind }) => kind === 'tagging'));
watch(job, (now, before) => {
  if (before && !now) void load();
});
async function look() {
  busy.value = true;
  fault.value = '';
  try {
    await taggingApi.askAbout(props.place, props.ids);
    state.value = await taggingApi.state();
    // A short run may be over before the window is told of it.
    if (!state.value.running) await load();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  busy.value = false;
}
async function dropWaiting() {
  await taggingApi.dropWaiting();
  await load();
}

const counted = computed(() => {
  if (!view.value) return undefined;
  const now = offeredAt(view.value, threshold.value);
  return outcomeOf(now, decided.value);
});
const offered = computed(() => (view.value ? offeredAt(view.value, rested.value) : []));
const sends = computed(() => {
  const { toSend = 0 } = view.value ?? {};
  const { left = null } = state.value ?? {};
  const may = left === null ? '' : `; ${left.toLocaleString('en')} may be sent this month`;
  return toSend === 0 ? `No image has to be sent again${may}.` : `Sends ${count(toSend, 'image')}${may}.`;
});
const used = computed(() => {
  const { sent = 0, limit = null } = state.value ?? {};
  return limit === null
    ? `${count(sent, 'image')} sent this month`
    : `${sent.toLocaleString('en')} of ${count(limit, 'image')} sent this month`;
});
const act = computed(() => {
  const { taken = 0, items = 0, refused = 0 } = counted.value ?? {};
  const parts = [
    ...(taken > 0 ? [`add ${count(taken, 'tag')} to ${count(items, 'image')}`] : []),
    ...(refused > 0 ? [`refuse ${refused.toLocaleString('en')}`] : []),
  ].join(', ');
  return parts === ''
    ? 'Nothing to add'
    : `${parts.charAt(0).toUpperCase()}${parts.slice(1)}${props.place === 'items' ? ' …' : ''}`;
});
async function takeAll() {
  if (!counted.value || counted.value.suggestions.length === 0) return;
  busy.value = true;
  const done = await props.take(counted.value);
  busy.value = false;
  if (done) await again();
}
/** What was decided is done: the sheet begins anew. */
async function again() {
  decided.value = new Map();
  await load();
}
defineExpose({ again });
</script>

<template>
  <div class="suggest">
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="state && !state.isSet" class="empty">
      No tagging service is set up here, so no tags are suggested.
      <template v-if="!site.may('settings')">A steward can enter its address.</template>
    </p>
    <div v-if="state" class="bar">
      <template v-if="state.isSet">
        <div class="how-sure">
          <span aria-hidden="true">How sure it must be</span>
          <AppSlider
            v-model="threshold"
            :min="0.3"
            :max="0.95"
            :step="0.05"
            label="How sure it must be, from 30 to 95 percent"
          />
          <output class="figures">{{ Math.round(100 * threshold) }} %</output>
        </div>
        <p class="figures" role="status">
          <template v-if="job"
            >Looking at images: {{ job.done.toLocaleString('en') }} of
            {{ job.total.toLocaleString('en') }}</template
          >
          <template v-else-if="view && counted && view.unseen < view.images">
            {{ count(counted.taken, 'tag') }} on {{ count(counted.items, 'image') }} of
            {{ view.images.toLocaleString('en') }}
          </template>
        </p>
        <div class="ask">
          <AppButton :busy="busy || job !== undefined" :disabled="ids.length === 0" @click="look">{{
            view && view.unseen === view.images ? 'Suggest tags' : 'Suggest again'
          }}</AppButton>
          <span v-if="view && !job" class="soft">{{ sends }}</span>
        </div>
      </template>
      <AppButton v-if="site.may('settings')" class="service" look="link" @click="setting = true"
        >Tagging service …</AppButton
      >
    </div>
    <p v-if="state?.fault && !job" class="note losing" role="alert">
      {{ state.fault }}
      <AppButton v-if="state.waiting" look="link" @click="dropWaiting"
        >Don’t look at the {{ count(state.waiting, 'image') }} that wait</AppButton
      >
    </p>
    <p v-if="view?.unread.total" class="note">
      {{ count(view.unread.total, 'image') }} could not be looked at:
      {{ view.unread.first.map(({ path, why }) => `${path} (${why})`).join('; ')
      }}{{ view.unread.total > view.unread.first.length ? '; …' : '' }}
    </p>
    <p v-if="view && offered.length === 0 && !job" class="empty">
      <template v-if="view.images === 0">None of these is an image.</template>
      <template v-else-if="view.unseen === view.images"
        >{{ state?.name ?? 'The tagging service' }} has not looked at these
        {{ count(view.images, 'image') }} yet. It learns from the tags that people gave to images.</template
      >
      <template v-else-if="view.groups.length > 0"
        >Nothing is this sure. Move the slider to the left to see less sure suggestions.</template
      >
      <template v-else
        >Nothing is suggested for these images. Tag a few like them, and suggest again.</template
      >
    </p>
    <TagSheet v-if="view && offered.length > 0" v-model:decided="decided" :view="view" :offered="offered" />
    <footer v-if="state?.isSet">
      <p class="soft figures">
        <template v-if="state.name">{{ state.name }}: </template>{{ used
        }}<template v-if="view?.unseen && view.unseen < view.images"
          >; {{ count(view.unseen, 'image') }} not looked at yet</template
        >
      </p>
      <span v-if="offered.length > 0" class="soft hint">Click an image to add, refuse or leave its tag.</span>
      <AppButton
        look="main"
        :busy="busy"
        :disabled="!counted || counted.suggestions.length === 0"
        @click="takeAll"
        >{{ act }}</AppButton
      >
    </footer>
    <ServiceDialog v-if="setting" service="tagging" @close="setting = false" @saved="void load()" />
  </div>
</template>

<style scoped>
.suggest {
  display: flex;
  height: 100%;
  min-height: 0;
  flex-direction: column;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 4px 24px 8px;
  border-bottom: 1px solid var(--rule);
  gap: 8px 24px;
}
.bar p {
  margin: 0;
}
.how-sure {
  display: grid;
  align-items: center;
  gap: 10px;
  grid-template-columns: auto auto 5ch;
}
.ask {
  display: flex;
  align-items: center;
  gap: 8px;
}
.service {
  margin-left: auto;
}
.empty,
.note {
  margin: 12px 24px;
}
.suggest > :deep(.sheet) {
  flex: 1;
}
footer {
  display: flex;
  align-items: center;
  padding: 8px 24px;
  border-top: 1px solid var(--rule-strong);
  margin-top: auto;
  gap: 16px;
}
footer p {
  margin: 0;
}
.hint {
  margin-left: auto;
}
footer > :last-child {
  margin-left: auto;
}
.hint + :last-child {
  margin-left: 0;
}
@media (width <= 760px) {
  .bar,
  footer {
    padding: 6px 12px;
  }
  .hint {
    display: none;
  }
}
</style>
