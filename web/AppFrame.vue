<script setup lang="ts">
import { useEventListener, whenever } from '@vueuse/core';
import { computed, onMounted, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import DoneLine from './parts/DoneLine.vue';
import FindBox from './parts/FindBox.vue';
import HelpMenu from './parts/HelpMenu.vue';
import OnlyWho from './parts/OnlyWho.vue';
import PersonMenu from './parts/PersonMenu.vue';
import PlanProof from './parts/PlanProof.vue';
import SiteNotices from './parts/SiteNotices.vue';
import TrayBar from './parts/TrayBar.vue';
import { api } from './api/client.ts';
import { useClipboard } from './stores/clipboard.ts';
import { useIntake } from './stores/intake.ts';
import { usePlan } from './stores/plan.ts';
import { usePreparing } from './stores/preparing.ts';
import { canStop, useSite } from './stores/site.ts';
import { count } from './parts/words.ts';
import AppButton from './kit/AppButton.vue';
import AppPanes from './kit/AppPanes.vue';
import { laterPart } from './kit/later.ts';
import { useOneColumn } from './kit/screen.ts';
import { useSections } from './sections.ts';

const PrepareDialog = laterPart(() => import('./sections/bench/PrepareDialog.vue'));
const RecordPane = laterPart(() => import('./parts/RecordPane.vue'));

const store = useSite();
const plan = usePlan();
const preparing = usePreparing();
const route = useRoute();
const router = useRouter();
onMounted(() => store.start());
useEventListener('paste', pasted);

const { sections, closed } = useSections();

/** Files dropped or pasted anywhere go to Intake, into the folder that is being looked at. */
const intake = useIntake();
const clipboard = useClipboard();
whenever(
  () => store.may('bring-in'),
  () => intake.start(),
  { once: true },
);
const over = ref(false);
async function take(add: (allowed: Promise<boolean>) => Promise<void>) {
  const allowed = store.whenMay('bring-in');
  if (route.name === 'library' && typeof route.query['folder'] === 'string')
    intake.folder = route.query['folder'];
  void add(allowed);
  if ((await allowed) && route.name !== 'intake') await router.push({ name: 'intake' });
}
const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
function dropped(event: DragEvent) {
  over.value = false;
  if (carriesFiles(event)) void take((allowed) => intake.addFrom(event, allowed));
}
function dragged(event: DragEvent) {
  over.value = store.may('bring-in') && carriesFiles(event);
}
/** An image from the clipboard (a screen grab) gets a name that says when; copied files keep theirs. */
function pasted(event: ClipboardEvent) {
  const files = [...(event.clipboardData?.files ?? [])];
  if (files.length === 0 || clipboard.meant(event)) return;
  event.preventDefault();
  const now = new Date().toISOString().slice(0, 19).replace('T', '-').replaceAll(':', '');
  const named = files.map((file, index) => ({
    file: /^image\.\w+$/.test(file.name)
      ? new File([file], `pasted-image-${now}${index ? `-${index + 1}` : ''}${file.name.slice(5)}`, {
          type: file.type,
        })
      : file,
    below: '',
  }));
  void take(async (allowed) => void ((await allowed) && (await intake.add(named))));
}

const oneColumn = useOneColumn();
const itemId = computed(() => {
  const id = Number(route.query['item']);
  return Number.isInteger(id) && id > 0 ? id : undefined;
});
</script>

<template>
  <a class="skip" href="#work">Skip to content</a>
  <div
    class="frame"
    :class="{ over }"
    @dragover.prevent="dragged"
    @dragleave.self="over = false"
    @drop.prevent="dropped"
  >
    <header class="masthead">
      <div class="site">
        <strong>{{ store.site?.name ?? 'Opening …' }}</strong>
        <a v-if="store.site" class="mono soft" :href="store.site.servedAt" target="_blank" rel="noreferrer">
          {{ store.site.servedAt.replace('http://', '')
          }}<span class="hidden-words"> (opens the site in a new window)</span>
        </a>
      </div>
      <FindBox />
      <div class="jobs" role="status">
        <RouterLink v-if="intake.progress !== undefined" class="lozenge figures" :to="{ name: 'intake' }">
          Sending {{ count(intake.sendings, 'file') }}, {{ Math.floor(100 * intake.progress) }} %
        </RouterLink>
        <span
          v-if="store.site?.useUnknown === 'reading'"
          class="lozenge"
          title="Until the site has been read, no item is reported as unused."
          >Reading references</span
        >
        <span v-if="!store.connected" class="lozenge losing">The server doesn’t answer</span>
        <span
          v-if="plan.busy && !plan.plan && !store.running.some((job) => job.kind === 'plan')"
          class="lozenge"
          >Preparing changes …</span
        >
        <span v-for="job in store.running" :key="job.id" class="lozenge figures">
          <span class="what">{{ job.title }}</span><template v-if="job.total">{{
            `: ${job.done.toLocaleString('en')} of ${job.total.toLocaleString('en')} ${job.what}`
          }}</template>
          <AppButton v-if="canStop(job) && store.may('describe')" look="link" @click="api.cancelJob(job.id)"
            >Stop</AppButton
          >
        </span>
      </div>
      <PersonMenu v-if="store.site" />
      <HelpMenu v-if="store.site" />
    </header>
    <SiteNotices />
    <nav class="rail" aria-label="Sections">
      <RouterLink
        v-for="one in sections"
        :key="one.name"
        :to="{ name: one.name }"
        :class="{ current: route.path.startsWith(`/${one.name}`) }"
      >
        <component :is="one.glyph" :size="22" aria-hidden="true" />
        <span>{{ one.word }}</span>
        <span v-if="one.waits" class="waits figures"
          >{{ one.waits.toLocaleString('en')
          }}<span class="hidden-words"> {{ one.waitsFor[one.waits === 1 ? 0 : 1] }}</span></span
        >
      </RouterLink>
    </nav>
    <AppPanes
      class="middle"
      name="record"
      side="end"
      label="Width of the record"
      :shown="itemId !== undefined && !oneColumn"
      :width="348"
      :min="280"
      :max="640"
    >
      <main id="work" tabindex="-1">
        <section v-if="closed" class="closed">
          <h1>Not open to you</h1>
          <OnlyWho :right="closed">can open this page.</OnlyWho>
          <p><RouterLink class="inline" to="/library">Go to Library</RouterLink></p>
        </section>
        <RouterView v-else-if="store.site || !route.meta.right" v-slot="{ Component: section }">
          <!-- Another image is another piece of work; all else goes on where it was. -->
          <component :is="section" :key="String(route.params['id'] ?? '')" />
        </RouterView>
      </main>
      <template #pane><RecordPane v-if="itemId !== undefined" :key="itemId" :item-id="itemId" /></template>
    </AppPanes>
    <RecordPane v-if="itemId !== undefined && oneColumn" :key="itemId" :item-id="itemId" />
    <div class="foot">
      <DoneLine />
      <TrayBar />
    </div>
  </div>
  <PrepareDialog v-if="preparing.ids" />
  <PlanProof />
</template>

<style scoped>
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 10;
  padding: 8px;
  background: var(--paper-raised);
}
.closed {
  padding: 24px;
}
.frame {
  display: grid;
  height: 100%;
  grid-template: var(--masthead) auto minmax(0, 1fr) auto / var(--rail) minmax(0, 1fr);
  grid-template-areas: 'masthead masthead' 'notice notice' 'rail work' 'rail foot';
}
/* What hangs over the window will be taken in, wherever it is let go. */
.frame.over::after {
  content: 'Drop the files to add them to Intake';
  position: fixed;
  inset: 0;
  z-index: 20;
  display: grid;
  border: 4px solid var(--verdigris);
  background: color-mix(in srgb, var(--paper) 82%, transparent);
  color: var(--verdigris);
  font-size: 22px;
  font-weight: 650;
  place-items: center;
  pointer-events: none;
}
.masthead {
  grid-area: masthead;
  display: flex;
  align-items: center;
  gap: 20px;
  padding: 0 16px;
  border-bottom: 1px solid var(--rule-strong);
}
.site {
  display: flex;
  align-items: baseline;
  gap: 10px;
  white-space: nowrap;
}
.jobs {
  display: flex;
  flex: 1;
  justify-content: flex-end;
  gap: 8px;
  white-space: nowrap;
}
.lozenge {
  padding: 2px 12px;
  border: 1px solid var(--verdigris);
  border-radius: 12px;
  color: var(--verdigris);
  font-size: 13px;
}
.lozenge .what {
  display: inline-block;
  max-width: 200px;
  overflow: hidden;
  text-overflow: ellipsis;
  vertical-align: bottom;
}
.lozenge .link {
  margin-left: 8px;
}
.lozenge.losing {
  border-color: var(--madder);
  color: var(--madder);
}
.rail {
  grid-area: rail;
  display: flex;
  flex-direction: column;
  padding-top: 8px;
  border-right: 1px solid var(--rule-strong);
}
.rail a {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  padding: 9px 0 8px;
  border-left: 3px solid transparent;
  color: var(--ink);
  font-size: 12.5px;
  text-decoration: none;
}
.rail a.current {
  border-left-color: var(--verdigris);
  background: var(--verdigris-wash);
  color: var(--verdigris);
  font-weight: 650;
}
.waits {
  color: var(--ochre);
  font-size: 12px;
  font-weight: 600;
  line-height: 1;
}
.middle {
  grid-area: work;
  min-height: 0;
}
#work {
  height: 100%;
  outline: none;
}
.foot {
  grid-area: foot;
}
/* One column: the sections stand below, like the tabs of a phone, and the record covers the work. */
@media (width <= 760px) {
  .frame {
    grid-template: auto auto minmax(0, 1fr) auto auto / minmax(0, 1fr);
    grid-template-areas: 'masthead' 'notice' 'work' 'foot' 'rail';
  }
  .masthead {
    flex-wrap: wrap;
    padding: 5px 10px;
    gap: 4px 10px;
  }
  .site a {
    display: none;
  }
  .masthead :deep(.person) {
    width: 170px;
    margin-left: auto;
  }
  .jobs:not(:empty) {
    min-width: 0;
    flex: 0 1 auto;
  }
  .rail {
    overflow-x: auto;
    flex-direction: row;
    padding: 0;
    border-top: 1px solid var(--rule-strong);
    border-right: 0;
  }
  .rail a {
    flex: 1;
    padding: 4px 4px 3px;
    border-top: 3px solid transparent;
    border-left: 0;
    font-size: 11.5px;
    gap: 0;
  }
  .rail a.current {
    border-top-color: var(--verdigris);
  }
  .waits {
    position: absolute;
    top: 2px;
    left: calc(50% + 13px);
    font-size: 11px;
  }
  #work {
    overflow: auto;
  }
}
</style>
