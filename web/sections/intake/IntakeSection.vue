<script setup lang="ts">
import { trim } from '../../../core/text/cut.ts';
import { useVirtualizer } from '@tanstack/vue-virtual';
import { storeToRefs } from 'pinia';
import { computed, onMounted, onUpdated, ref, watch } from 'vue';
import type { ArrivalView, FindingView } from '../../../api/intake.ts';
import type { Words } from '../../../api/items.ts';
import type { EntryView } from '../../../api/plans.ts';
import { whoMay } from '../../../core/people/rights.ts';
import { api } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useIntake, type Show } from '../../stores/intake.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import ArrivalFields from './ArrivalFields.vue';
import CompareDialog from './CompareDialog.vue';
import IntakeLine from './IntakeLine.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppFile from '../../kit/AppFile.vue';
import AppInput from '../../kit/AppInput.vue';
import AppSegmented from '../../kit/AppSegmented.vue';
import { laterPart } from '../../kit/later.ts';

const FindImage = laterPart(() => import('./FindImage.vue'));
const NewDocument = laterPart(() => import('./NewDocument.vue'));
const DoorTags = laterPart(() => import('./DoorTags.vue'));
const ServiceDialog = laterPart(() => import('../../parts/ServiceDialog.vue'));
const RuleDialog = laterPart(() => import('../../parts/RuleDialog.vue'));

const intake = useIntake();
const { atOnce, show } = storeToRefs(intake);
const site = useSite();
const plan = usePlan();
const tray = useTray();
const folders = ref<string[]>([]);
const fetching = ref(false);
const addresses = ref('');
const underWay = ref(false);
const more = ref(false);
const rules = ref(false);
const finding = ref(false);
const beginning = ref(false);
const banking = ref(false);
const tagging = ref(false);
/** Images that can be looked at. */
const images = computed(() =>
  intake.lines.flatMap(({ arrival }) =>
    arrival?.state === 'ready' && arrival.kind === 'image' ? [arrival.id] : [],
  ),
);
const compared = ref<{ arrival: ArrivalView; finding: FindingView }>();
/** The last batch that was brought in and still stands. */
const last = ref<EntryView>();

onMounted(async () => {
  folders.value = (await api.folders()).map((one) => one.folder).filter((one) => one !== '');
});
watch(
  () => site.revision,
  async () => {
    const entries = await api.ledger();
    last.value = entries.find((one) => one.kind === 'bring-in' && one.undoneBy === null);
  },
  { immediate: true },
);
/** What could not be fetched stays in the field. */
async function fetchNow() {
  underWay.value = true;
  const wanted = addresses.value.split(/\s+/).filter(Boolean);
  const left = await intake.fetchFrom(wanted);
  addresses.value = left.join('\n');
  underWay.value = false;
  fetching.value = left.length > 0;
}

const FIRST = [
  ['tags', 'Tags'],
  ['credit', 'Credit'],
  ['licence', 'Licence'],
  ['licenceEnd', 'Licence ends'],
] as const;
const MORE = [
  ['alt', 'Alt text'],
  ['title', 'Title'],
  ['creator', 'Creator'],
  ['copyright', 'Copyright'],
  ['source', 'Source'],
] as const;

const ids = computed(() => intake.meant.map((line) => line.arrival!.id));
const words = computed(() => intake.meant.map((line) => line.arrival!.words));
/** What all of them share; empty where (different values). */
const shared = computed<Partial<Words>>(() =>
  Object.fromEntries(
    [...FIRST, ...MORE].map(([field]) => [field, same(field) ? words.value[0]?.[field] : undefined]),
  ),
);
const differing = computed(() => [...FIRST, ...MORE].map(([field]) => field).filter((field) => !same(field)));
function same(field: keyof Words): boolean {
  return new Set(words.value.map((one) => JSON.stringify(one[field] ?? ''))).size <= 1;
}
const folderShown = computed(() => {
  const all = new Set(intake.meant.map((line) => line.arrival!.folder));
  return all.size === 1 ? [...all][0]! : intake.meant.length === 0 ? intake.folder : '';
});
const folderText = ref('');
watch(folderShown, (folder) => (folderText.value = folder), { immediate: true });
function setFolder() {
  const folder = trim(folderText.value.trim(), '/');
  intake.folder = folder;
  // For all: also for those that are still being checked, else they would come out in the folder of before.
  const checked = intake.lines.flatMap((line) => (line.arrival?.state === 'received' ? line.arrival.id : []));
  const meant = intake.chosen.size > 0 ? ids.value : [...ids.value, ...checked];
  if (meant.length > 0) void intake.change(meant, { folder });
}
/** Tags are added to those that each has; everything else takes the place of what stood there. */
function setWords(change: Partial<Words>) {
  const { tags, ...rest } = change;
  void intake.change(
    ids.value,
    tags ? (intake.meant.length > 1 ? { addTags: tags } : { words: { tags } }) : { words: rest },
  );
}
const whose = computed(() =>
  intake.chosen.size > 0 ? `the ${intake.chosen.size} chosen` : `all ${intake.ready.length}`,
);
function chooseAll(yes: boolean) {
  intake.chosen = new Set(yes ? intake.ready.map((line) => line.arrival!.id) : []);
}
const GROUPS: [Show, string][] = [
  ['all', 'All'],
  ['asks', 'Needs a decision'],
  ['doubts', 'To check'],
  ['left-out', 'Skipped'],
  ['refused', 'Refused'],
];
const groupsShown = computed(() =>
  GROUPS.map(([value, label]) => ({ value, label, count: intake.groups[value].length })).filter(
    ({ count: files }) => files > 0,
  ),
);

/** Once all is in, the keyboard goes on from what came in: its button is gone. */
const lastLine = ref<HTMLElement>();
const emptied = ref(false);
watch(
  () => intake.lines.length,
  (now, before) => (emptied.value = now === 0 && before > 0),
);
watch(
  () => last.value?.id,
  () => {
    if (emptied.value && document.activeElement === document.body)
      lastLine.value?.querySelector('a')?.focus();
    emptied.value = false;
  },
  { flush: 'post' },
);

/** Only the lines in sight, and some on both sides, are made: a list may have thousands. */
const surface = ref<HTMLElement>();
const list = ref<HTMLElement>();
const margin = ref(0);
onUpdated(() => (margin.value = list.value?.offsetTop ?? 0));
const virtual = useVirtualizer(
  computed(() => ({
    count: intake.shown.length,
    getScrollElement: () => surface.value ?? null,
    getItemKey: (index: number) => intake.shown[index]?.key ?? index,
    estimateSize: () => 67,
    scrollMargin: margin.value,
    overscan: 20,
  })),
);
function measure(line: unknown) {
  const element = (line as { $el?: Element } | null)?.$el;
  if (element) virtual.value.measureElement(element);
}
const refused = computed(() => intake.lines.filter((line) => line.state === 'refused'));
const publishes = computed(() => site.may('publish'));
/** What takes no other's place: it may be a draft. */
const fresh = computed(() => intake.going.filter((line) => line.arrival!.outcome === 'bring-in'));
/** What goes in: who publishes nothing brings in drafts, which take no other's place. */
const meant = computed(() => (publishes.value ? intake.going : fresh.value));
const asks = computed(() => intake.meant.filter((line) => line.arrival!.outcome === 'ask').length);
/** To be placed, exported or sorted: the tray stays while moving between sections. */
async function gather(entry: number) {
  tray.add((await api.itemsFound({ entry })).ids);
}
async function clearRefused() {
  for (const line of refused.value) await intake.drop(line);
}
const bytes = computed(() =>
  meant.value.reduce((sum, { arrival }) => sum + (arrival!.ready ?? arrival!).bytes, 0),
);
</script>

<template>
  <div class="intake">
    <div ref="surface" class="surface">
      <div class="head">
        <h1>Intake</h1>
        <p class="soft">
          Drop files or folders anywhere, or paste an image.
          {{
            publishes
              ? 'Nothing goes on the site until you bring it in.'
              : `What you bring in becomes a draft. It goes on the site once ${whoMay('publish')} publishes it.`
          }}
        </p>
      </div>
      <div class="choose">
        <AppFile multiple @files="intake.addChosen">Choose files …</AppFile>
        <AppFile folder @files="intake.addChosen">Choose a folder …</AppFile>
        <AppButton @click="beginning = true">New document …</AppButton>
        <AppButton v-if="site.site?.fetching" :aria-expanded="fetching" @click="fetching = !fetching">
          Fetch from a URL …
        </AppButton>
        <AppButton v-if="site.site?.imageBank" @click="finding = true">Find an image …</AppButton>
        <AppButton v-if="site.site?.tagging && images.length" @click="tagging = true"
          >Suggest tags …</AppButton
        >
        <AppButton v-if="site.may('settings')" look="link" @click="banking = true">Image bank …</AppButton>
        <label v-if="intake.lines.length === 0" class="into">
          <span>into the folder</span>
          <AppInput
            v-model="folderText"
            class="mono"
            list="intake-folders"
            spellcheck="false"
            placeholder="the site’s root"
            aria-label="Folder for new files"
            @change="setFolder"
          />
          <AppButton look="link" @click="rules = true">Folder rules …</AppButton>
        </label>
        <AppCheckbox v-model="atOnce" class="switch"> Bring in files without issues right away</AppCheckbox>
      </div>
      <form v-if="fetching" class="fetch" @submit.prevent="fetchNow">
        <label for="fetch-from">File URLs, one per line</label>
        <AppInput
          id="fetch-from"
          v-model="addresses"
          class="mono"
          spellcheck="false"
          placeholder="One URL per line"
          :rows="2"
        />
        <AppButton look="main" type="submit" :disabled="!addresses.trim()" :busy="underWay">Fetch</AppButton>
      </form>
      <div v-if="intake.lines.length" class="for-all">
        <AppCheckbox
          class="all"
          :model-value="intake.ready.length > 0 && intake.chosen.size === intake.ready.length"
          :indeterminate="intake.chosen.size > 0 && intake.chosen.size < intake.ready.length"
          aria-label="Select all"
          @change="chooseAll"
        >
          <strong>For {{ whose }}:</strong>
        </AppCheckbox>
        <label class="folder">
          <span>Folder <AppButton look="link" @click="rules = true">Folder rules …</AppButton></span>
          <AppInput
            v-model="folderText"
            class="mono"
            list="intake-folders"
            spellcheck="false"
            placeholder="the site’s root"
            :aria-label="`Folder for ${whose}`"
            @change="setFolder"
          />
        </label>
        <ArrivalFields
          :fields="more ? [...FIRST, ...MORE] : FIRST"
          :values="shared"
          :differing="differing"
          :whose="`for ${whose}`"
          @change="setWords"
        />
        <AppButton look="link" class="more" :aria-expanded="more" @click="more = !more"
          >{{ more ? 'Fewer' : 'More' }}
        </AppButton>
      </div>
      <datalist id="intake-folders"><option v-for="one in folders" :key="one" :value="one" /></datalist>
      <p v-if="intake.fault" class="note losing" role="alert">{{ intake.fault }}</p>
      <AppSegmented
        v-if="groupsShown.length > 1"
        v-model="show"
        class="show"
        label="Which files to show"
        :options="groupsShown"
      />
      <ol
        v-if="intake.lines.length"
        ref="list"
        class="lines"
        :style="{ height: `${virtual.getTotalSize()}px` }"
      >
        <IntakeLine
          v-for="{ index, key, start } in virtual.getVirtualItems()"
          :key="String(key)"
          :ref="measure"
          :line="intake.shown[index]!"
          :data-index="index"
          :aria-posinset="index + 1"
          :aria-setsize="intake.shown.length"
          :style="{ transform: `translateY(${start - virtual.options.scrollMargin}px)` }"
          @compare="(finding) => (compared = { arrival: intake.shown[index]!.arrival!, finding })"
        />
      </ol>
      <p v-else-if="intake.loaded" class="empty">
        No files waiting. Drop images, videos, audio or documents here. Each file is checked, gets a readable
        name, and is compared with what the site already has.
      </p>
      <p v-if="last" ref="lastLine" class="last">
        Last import: <strong>{{ last.title }}</strong>, by {{ last.person }}.
        <RouterLink :to="{ name: 'library', query: { entry: last.id, sort: 'added' } }">Show</RouterLink>
        <RouterLink :to="{ name: 'describe', query: { entry: last.id } }">Describe</RouterLink>
        <AppButton look="link" @click="gather(last.id)">Add to tray</AppButton>
        <AppButton look="link" @click="plan.propose({ kind: 'undo', entryId: last.id })">
          Undo import …
        </AppButton>
      </p>
    </div>
    <div v-if="intake.lines.length" class="foot">
      <p class="figures" role="status">
        <template v-if="intake.underway">{{ count(intake.underway, 'file') }} still uploading. </template>
        <template v-if="asks"
          >{{ count(asks, 'file') }} {{ asks === 1 ? 'needs' : 'need' }} your decision.
        </template>
        <template v-if="meant.length < intake.going.length"
          >{{ count(intake.going.length - meant.length, 'file') }} would replace an item, which only
          {{ whoMay('clean') }} can do. Choose another option there.
        </template>
        <template v-if="refused.length"
          >{{ count(refused.length, 'file') }} refused.
          <AppButton look="link" @click="clearRefused">Clear refused files</AppButton></template
        >
      </p>
      <AppButton
        v-if="publishes && fresh.length"
        :disabled="intake.busy"
        title="Into the library, but not on the site yet"
        @click="intake.bringIn('drafts', fresh)"
        >Bring in as {{ fresh.length === 1 ? 'a draft' : 'drafts' }}
      </AppButton>
      <AppButton
        look="main"
        :disabled="(!meant.length && !intake.ending.length) || intake.busy"
        @click="intake.bringIn(publishes ? 'items' : 'drafts', [...meant, ...intake.ending])"
        ><template v-if="intake.busy">Bringing in …</template>
        <template v-else-if="meant.length || !intake.ending.length"
          >Bring in {{ count(meant.length, publishes ? 'item' : 'draft') }}, {{ weight(bytes) }}</template
        >
        <template v-else>Use {{ count(intake.ending.length, 'existing item') }}</template>
      </AppButton>
    </div>
    <CompareDialog
      v-if="compared"
      :arrival="compared.arrival"
      :finding="compared.finding"
      @close="compared = undefined"
    />
    <FindImage v-if="finding" @close="finding = false" />
    <NewDocument v-if="beginning" @close="beginning = false" />
    <ServiceDialog v-if="banking" service="image-bank" @close="banking = false" />
    <DoorTags v-if="tagging" :ids="images" @close="tagging = false" />
    <RuleDialog v-if="rules" :folder="folderText.trim()" @close="rules = false" />
  </div>
</template>

<style scoped src="./IntakeSection.css"></style>
