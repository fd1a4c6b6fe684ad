<script setup lang="ts">
import PathText from './PathText.vue';
import { computed, ref } from 'vue';
import type { ItemDetail } from '../../api/items.ts';
import type { ReviewState } from '../../core/plan/plan.ts';
import { sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import { clock, moment, weight } from './words.ts';
import OnlyWho from './OnlyWho.vue';
import AppDate from '../kit/AppDate.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';

/** What is known of an item's file, and who looks after it. */
const props = defineProps<{ detail: ItemDetail }>();
const site = useSite();
const plan = usePlan();
const item = computed(() => props.detail.item);
const fault = ref('');

const writes = computed(() => site.may('describe') && site.reachesItem(item.value));
async function change(what: { owner?: string | null; review?: ReviewState; due?: string }) {
  fault.value = '';
  try {
    await plan.make({ kind: 'records', itemIds: [item.value.id], ...what });
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <section>
    <h3>Facts</h3>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <OnlyWho right="describe" :item="item">can change owner, status and due date.</OnlyWho>
    <dl class="facts figures">
      <dt>Kind</dt>
      <dd>{{ item.kind }}, {{ item.mime }}</dd>
      <template v-if="item.width">
        <dt>Dimensions</dt>
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
      <dt>File size</dt>
      <dd>{{ weight(item.bytes) }} ({{ item.bytes.toLocaleString('en') }} bytes)</dd>
      <dt><label for="record-owner">Owner</label></dt>
      <dd>
        <AppSelect
          id="record-owner"
          :model-value="item.owner ?? ''"
          :disabled="!writes"
          @change="change({ owner: $event || null })"
          ><AppOption value="" label="nobody" />
          <AppOption
            v-for="person in site.site?.people ?? []"
            :key="person.id"
            :value="person.name"
            :label="person.name"
          />
        </AppSelect>
      </dd>
      <dt><label for="record-review">Status</label></dt>
      <dd>
        <AppSelect
          id="record-review"
          :model-value="item.review"
          :disabled="!writes"
          @change="change({ review: $event })"
          ><AppOption value="" :label="item.state === 'draft' ? 'draft' : 'published'" />
          <AppOption value="in-review" label="in review" />
          <AppOption v-if="item.state === 'here'" value="to-update" label="to be updated" />
        </AppSelect>
      </dd>
      <dt><label for="record-due">Due</label></dt>
      <dd>
        <AppDate
          id="record-due"
          :model-value="item.due"
          :disabled="!writes"
          @change="change({ due: $event })"
        />
      </dd>
      <dt>Added</dt>
      <dd>{{ moment(item.addedAt) }}, {{ item.addedBy ?? 'found on the site' }}</dd>
      <template v-if="item.originalName && item.originalName !== item.name">
        <dt>Original name</dt>
        <dd class="mono"><PathText :path="item.originalName" /></dd>
      </template>
      <template v-if="detail.hasOriginal">
        <dt>Original</dt>
        <dd><a :href="`/api/items/${item.id}/original`" download>Download original</a></dd>
      </template>
      <template v-if="item.changedAt">
        <dt>Changed</dt>
        <dd>{{ moment(item.changedAt) }}, {{ item.changedBy }}</dd>
      </template>
    </dl>
    <p v-for="one in detail.content?.notes ?? []" :key="one" class="soft">{{ one }}</p>
    <template v-if="detail.content?.excerpt">
      <h3>Excerpt</h3>
      <p class="soft excerpt">{{ detail.content.excerpt }} …</p>
    </template>
  </section>
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
section {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding-top: 10px;
  border-top: 1px solid var(--rule);
}
.facts {
  display: grid;
  margin: 0;
  grid-template-columns: 72px 1fr;
  gap: 3px 8px;
}
.facts dt {
  color: var(--ink-soft);
}
.facts dd {
  margin: 0;
  word-break: break-word;
}
</style>
