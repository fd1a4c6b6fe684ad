<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ItemView } from '../../../api/items.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useTray } from '../../stores/tray.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import FindingList from './FindingList.vue';

const site = useSite();
const plan = usePlan();
const tray = useTray();
const route = useRoute();
const router = useRouter();

const unused = ref<ItemView[]>([]);
const mentioned = ref<ItemView[]>([]);
const copies = ref<ItemView[][]>([]);
const aside = ref<ItemView[]>([]);
const against = ref<ItemView[]>([]);
/** Why, in sentences. */
const reasons = ref(new Map<number, string[]>());
const fault = ref('');
const loaded = ref(false);
const chosen = ref(new Set<number>());

watch(
  () => site.revision,
  async () => {
    try {
      const [u, m, c, a, breaks] = await Promise.all([
        api.items({ where: 'use:unused', sort: 'bytes', limit: 500 }),
        api.items({ where: 'use:mentioned', sort: 'path', limit: 500 }),
        api.copies(),
        api.items({ state: 'aside', sort: 'path', limit: 500 }),
        api.ruleBreaks(),
      ]);
      unused.value = u.items;
      mentioned.value = m.items;
      copies.value = c;
      aside.value = a.items;
      against.value = breaks.map((one) => one.item);
      reasons.value = new Map(breaks.map((one) => [one.item.id, one.broken]));
      loaded.value = true;
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

const QUEUES = ['unused', 'mentioned', 'copies', 'rules', 'aside'] as const;
type Queue = (typeof QUEUES)[number];
const queue = computed<Queue>(() => QUEUES.find((one) => one === route.query['queue']) ?? 'unused');
watch(queue, () => (chosen.value = new Set()));

const sum = (items: ItemView[]) => items.reduce((total, item) => total + item.bytes, 0);
/** What copies weigh beyond one of each. */
const spare = computed(() =>
  copies.value.reduce((total, group) => total + group[0]!.bytes * (group.length - 1), 0),
);
const lines = computed<{ queue: Queue; word: string; items: number; bytes: number; what: string }[]>(() => [
  {
    queue: 'unused',
    word: 'Unused',
    items: unused.value.length,
    bytes: sum(unused.value),
    what: 'No page refers to them and no text names them. They can be set aside; nothing on the site changes for visitors.',
  },
  {
    queue: 'mentioned',
    word: 'Mentioned only',
    items: mentioned.value.length,
    bytes: sum(mentioned.value),
    what: 'No reference was found, but a script, a data file or a text names them. Read the place before you set one aside: a script may show it.',
  },
  {
    queue: 'copies',
    word: 'Copies',
    items: copies.value.length,
    bytes: spare.value,
    what: 'Groups of items whose bytes are the same. Keep the one that is placed; the ones nothing refers to can go.',
  },
  {
    queue: 'rules',
    word: 'Against the rule',
    items: against.value.length,
    bytes: sum(against.value),
    what: 'They do not fit what their folder is for. Move them where they belong, replace them, or change the folder’s rule in the Library.',
  },
  {
    queue: 'aside',
    word: 'Set aside',
    items: aside.value.length,
    bytes: sum(aside.value),
    what: 'Taken off the site and kept in the data folder. Each can be restored to where it was.',
  },
]);
const current = computed(() => lines.value.find((line) => line.queue === queue.value)!);

function toggle(id: number) {
  const next = new Set(chosen.value);
  if (!next.delete(id)) next.add(id);
  chosen.value = next;
}
function chooseAll(items: ItemView[]) {
  chosen.value = chosen.value.size === items.length ? new Set() : new Set(items.map((item) => item.id));
}
async function act() {
  if (queue.value === 'rules') {
    tray.add(chosen.value);
    chosen.value = new Set();
    return;
  }
  await plan.propose({ kind: queue.value === 'aside' ? 'restore' : 'set-aside', itemIds: [...chosen.value] });
  chosen.value = new Set();
}
function open(id: number) {
  void router.push({ query: { ...route.query, item: id } });
}
</script>

<template>
  <div class="upkeep">
    <nav class="sheet" aria-label="Queues">
      <h1>Upkeep</h1>
      <RouterLink
        v-for="line in lines"
        :key="line.queue"
        :to="{ query: { queue: line.queue } }"
        :class="{ current: line.queue === queue }"
      >
        <span>{{ line.word }}</span>
        <span class="figures">{{ loaded ? line.items : '' }}</span>
        <span class="figures soft">{{ loaded ? weight(line.bytes) : '' }}</span>
      </RouterLink>
      <p v-if="site.site?.unreadable.length" class="unread">
        <strong>{{ count(site.site.unreadable.length, 'file') }} could not be read</strong>
        <span v-for="one in site.site.unreadable.slice(0, 6)" :key="one.path"
          ><span class="mono">{{ one.path }}</span> {{ one.why }}</span
        >
      </p>
    </nav>
    <div class="surface">
      <p v-if="fault" class="note losing">{{ fault }}</p>
      <div class="head">
        <h2>{{ current.word }}</h2>
        <p class="soft">{{ current.what }}</p>
      </div>
      <div v-if="current.items" class="acts">
        <button
          class="act"
          type="button"
          :class="{ losing: queue !== 'aside' && queue !== 'rules' }"
          :disabled="chosen.size === 0"
          @click="act"
        >
          {{ queue === 'aside' ? 'Restore' : queue === 'rules' ? 'Gather' : 'Set aside' }}
          {{ count(chosen.size, 'item') }}{{ queue === 'rules' ? '' : ' …' }}
        </button>
        <button v-if="queue === 'unused'" class="link" type="button" @click="chooseAll(unused)">
          {{ chosen.size === unused.length ? 'Choose none' : 'Choose all' }}
        </button>
        <button v-if="queue === 'rules'" class="link" type="button" @click="chooseAll(against)">
          {{ chosen.size === against.length ? 'Choose none' : 'Choose all' }}
        </button>
        <button v-if="queue === 'aside'" class="link" type="button" @click="chooseAll(aside)">
          {{ chosen.size === aside.length ? 'Choose none' : 'Choose all' }}
        </button>
      </div>
      <p v-else-if="loaded" class="empty">
        {{
          queue === 'aside'
            ? 'Nothing is set aside.'
            : 'Nothing to do here: this part of the library is in good order.'
        }}
      </p>
      <template v-if="queue === 'copies'">
        <section v-for="group in copies" :key="group[0]!.sha256">
          <h3>{{ count(group.length, 'copy', 'copies') }} of {{ weight(group[0]!.bytes) }}</h3>
          <FindingList :items="group" :chosen="chosen" @toggle="toggle" @open="open" />
        </section>
      </template>
      <FindingList
        v-else
        :items="{ unused, mentioned, rules: against, aside }[queue]"
        :reasons="queue === 'rules' ? reasons : undefined"
        :chosen="chosen"
        @toggle="toggle"
        @open="open"
      />
    </div>
  </div>
</template>

<style scoped>
.upkeep {
  display: flex;
  height: 100%;
}
.sheet {
  width: 248px;
  flex: none;
  padding: 18px 0;
  border-right: 1px solid var(--rule);
  overflow: auto;
}
.sheet h1 {
  padding: 0 16px 10px;
}
.sheet a {
  display: grid;
  padding: 8px 16px;
  border-bottom: 1px solid var(--rule);
  color: var(--ink);
  gap: 8px;
  grid-template-columns: 1fr 40px 62px;
  text-decoration: none;
}
.sheet a .figures {
  text-align: right;
}
.sheet a.current {
  background: var(--verdigris-wash);
  color: var(--verdigris);
  font-weight: 600;
}
.unread {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 14px 16px;
  font-size: 13px;
  word-break: break-word;
}
.surface {
  flex: 1;
}
.head {
  flex-direction: column;
  gap: 2px;
}
.acts {
  display: flex;
  gap: 12px;
  margin-bottom: 12px;
}
section h3 {
  margin: 14px 0 4px;
}
</style>
