<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import type { LiveView } from '../../../api/pages.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppDialog from '../../kit/AppDialog.vue';
import { count, moment } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';

/** A site as visitors see it, for pages that do not lie in the folder: what it shows counts as placed. */
const emit = defineEmits<{ close: [] }>();
const site = useSite();
const open = computed({ get: () => true, set: () => emit('close') });
const address = ref(site.site?.servedAt ?? '');
const view = ref<LiveView>();
const busy = ref(false);
const fault = ref('');
const running = computed(() => site.running.find((job) => job.kind === 'live'));

onMounted(async () => {
  try {
    view.value = await api.live();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
async function ask(work: () => Promise<LiveView>) {
  busy.value = true;
  fault.value = '';
  try {
    view.value = await work();
    await site.changed();
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
  }
}
const failing = computed(() => view.value?.pages.filter((page) => page.status >= 400) ?? []);
const good = computed(() => view.value?.pages.filter((page) => page.status < 400) ?? []);
</script>

<template>
  <AppDialog v-model="open" width="760px" top="6vh" title="Live site">
    <p class="soft">
      Reads a site over the web as visitors see it: its sitemap, the links within it, what robots.txt allows,
      one page after the other with a pause between. What its pages show counts as placed; those pages are
      never changed from here.
    </p>
    <form class="ask" @submit.prevent="ask(() => api.readLive(address))">
      <label for="live-address">Address</label>
      <AppInput id="live-address" v-model="address" class="mono" type="url" required maxlength="2000" />
      <AppButton look="main" type="submit" :disabled="busy || running !== undefined">Read site</AppButton>
    </form>
    <p v-if="running" role="status" class="figures">
      {{ running.done }} of {{ running.total }} pages read
      <AppButton look="link" @click="api.cancelJob(running.id)">Stop</AppButton>
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <template v-if="view && view.pages.length">
      <p class="figures">
        {{ count(good.length, 'page') }} show {{ count(view.items.seen, 'item') }} of the library;
        {{ view.items.only }} of them on no page in the folder. Read {{ moment(view.pages[0]!.readAt) }}.
        <AppButton look="link" :disabled="busy" @click="ask(() => api.forgetLive())"> Forget it </AppButton>
      </p>
      <ul v-if="failing.length" class="list">
        <li v-for="page in failing" :key="page.url" class="madder">
          <b class="figures">{{ page.status }}</b> <span class="mono">{{ page.url }}</span>
        </li>
      </ul>
      <ul class="list">
        <li v-for="page in good.slice(0, 300)" :key="page.url">
          <a :href="page.url" target="_blank" rel="noreferrer">{{ page.title || page.url }}</a>
          <span class="soft figures">{{ page.placements ? count(page.placements, 'placement') : '' }}</span>
        </li>
      </ul>
    </template>
    <p v-else-if="view && !busy" class="empty">No live site read yet.</p>
  </AppDialog>
</template>

<style scoped>
.ask {
  display: flex;
  gap: 10px;
  align-items: center;
}
.list {
  max-height: 40vh;
  margin: 6px 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
.list li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
  overflow-wrap: anywhere;
}
.madder {
  color: var(--madder);
}
</style>
