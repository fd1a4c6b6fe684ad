<script setup lang="ts">
import { PhArrowArcLeft, PhArrowArcRight, PhX } from '@phosphor-icons/vue';
import { useDebouncedRefHistory, useEventListener, useSessionStorage, watchDebounced } from '@vueuse/core';
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, useTemplateRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { EditView } from '../../../api/edits.ts';
import type { ItemDetail } from '../../../api/items.ts';
import type { PlanRequest } from '../../../api/plans.ts';
import { isDrawing } from '../../../core/picture/recipe/drawing.ts';
import { FORMAT_NAMES, stepTexts } from '../../../core/picture/recipe/describe.ts';
import {
  isNothing,
  merge,
  NO_RECIPE,
  type Recipe,
  type RecipeChange,
  type Step,
} from '../../../core/picture/recipe/recipe.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppMenu from '../../kit/AppMenu.vue';
import { laterPart } from '../../kit/later.ts';
import { isCovered } from '../../kit/screen.ts';
import { count, weight } from '../../parts/words.ts';
import { useIntake } from '../../stores/intake.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import BenchStage from './BenchStage.vue';
import BenchTools from './BenchTools.vue';
import CloseView from './CloseView.vue';
import OutputTools from './OutputTools.vue';
import KeepTreatment from './KeepTreatment.vue';
import { useTrial } from './trial.ts';
import { arrivalPiece, itemPiece } from './workpiece.ts';

const SaveDialog = laterPart(() => import('./SaveDialog.vue'));

/** One image on the bench: what is to become of it, seen at once, and saved as a plan. Always made of its original. */
const route = useRoute();
const router = useRouter();
const plan = usePlan();
const site = useSite();
const intake = useIntake();
const id = Number(route.params['id']);
const piece = route.name === 'edit-arrival' ? arrivalPiece(id) : itemPiece(id);
const edit = ref<EditView>();
const detail = ref<ItemDetail>();
const image = shallowRef<ImageBitmap>();
const fault = ref('');

/** What is being made; kept in this window until it is saved. */
const kept = useSessionStorage<{ of: string; recipe: Recipe } | null>(`iconomos.bench.${piece.key}`, null, {
  serializer: { read: (text) => JSON.parse(text) as { of: string; recipe: Recipe }, write: JSON.stringify },
});
/** Never changed within: a change gives another one. */
const recipe = shallowRef<Recipe>(NO_RECIPE);
const { undo, redo, canUndo, canRedo, clear, commit, pause, resume } = useDebouncedRefHistory(recipe, {
  debounce: 350,
  capacity: 300,
});
/** Steps that are left out for a while. */
const off = ref<Step[]>([]);
const effective = computed(() =>
  off.value.length === 0
    ? recipe.value
    : merge(recipe.value, Object.fromEntries(off.value.map((step) => [step, null]))),
);
const before = ref(false);
/** What comes of it, pixel by pixel. */
const close = ref(false);
const shown = computed(() => (before.value ? NO_RECIPE : effective.value));
const tool = ref<'frame' | 'level' | 'cover'>('frame');
/** Only its size and format can be changed. */
const drawing = computed(() => edit.value !== undefined && isDrawing(edit.value.original.mime));
/** Before and after side by side; what is clipped, marked; whether text could be read on it. */
const compare = ref(false);
const clipping = ref(false);
const reading = ref(false);
const stage = useTemplateRef('stage');
const changed = computed(
  () => edit.value !== undefined && JSON.stringify(effective.value) !== JSON.stringify(edit.value.recipe),
);

const canSave = computed(() => changed.value && !fault.value && !refused.value);

async function load() {
  try {
    const loaded = await piece.load();
    [edit.value, detail.value] = [loaded.edit, loaded.detail];
    const { original, recipe: saved } = edit.value;
    // Undo goes back to this, and no further.
    pause();
    recipe.value = kept.value?.of === original.sha256 ? kept.value.recipe : saved;
    await nextTick();
    commit();
    clear();
    resume();
    const answer = await fetch(piece.image(edit.value));
    if (!answer.ok) throw new Error('The image couldn’t be opened. Reload the page.');
    image.value = await createImageBitmap(await answer.blob());
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
void load();
let settled = false;
function keep() {
  if (settled || !edit.value) return;
  kept.value = changed.value ? { of: edit.value.original.sha256, recipe: recipe.value } : null;
}
// While a slider moves, nothing is written down; whoever leaves at once loses nothing.
watchDebounced(recipe, keep, { debounce: 250, maxWait: 1000 });
useEventListener(window, 'pagehide', keep);
onBeforeUnmount(keep);
/** Saved or given up: nothing of it is kept. */
function settle() {
  settled = true;
  kept.value = null;
}
function change(what: RecipeChange) {
  recipe.value = merge(recipe.value, what);
  off.value = off.value.filter((step) => !(step in what));
  if ('covers' in what || 'orient' in what) tool.value = 'frame';
}

const steps = computed(() => stepTexts(recipe.value) as { step: Step; text: string }[]);
const { tried, trying, fault: refused } = useTrial(piece, effective, edit);

const keeping = ref(false);
const saving = ref(false);
async function save(to: Extract<PlanRequest, { kind: 'prepare' }>['to']) {
  saving.value = false;
  await plan.propose({ kind: 'prepare', itemId: id, recipe: effective.value, to });
  if (plan.plan)
    plan.afterwards(() => {
      settle();
      void leave();
    });
}
/** What waits is not on the site yet: nothing has to be agreed to. */
async function finish() {
  if (!canSave.value) return;
  if (piece.arrival === undefined) {
    // A draft is edited in its place.
    if (edit.value?.draft) await save({ as: 'this', sizes: 'all' });
    else saving.value = true;
    return;
  }
  if (await intake.change([piece.arrival], { recipe: effective.value })) {
    settle();
    await leave();
  } else fault.value = intake.fault;
}
/** Back to where the image was chosen, as it was left there. */
function leave() {
  const { back } = router.options.history.state;
  if (typeof back === 'string') router.back();
  else return router.push(piece.place(detail.value));
}
function back() {
  settle();
  void leave();
}
// Before the fields and lists, which take Enter for themselves.
useEventListener(
  'keydown',
  (event) => {
    if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey) || isCovered()) return;
    event.preventDefault();
    event.stopPropagation();
    // What is being typed counts once the field is left.
    (event.target as HTMLElement).blur();
    void finish();
  },
  { capture: true },
);
useEventListener('keydown', (event) => {
  // Looked at first: whether something lies over the screen takes longer to see.
  if (!/^[zyvc1]$/i.test(event.key) || isCovered()) return;
  const at = event.target as HTMLElement;
  const typing = at.closest('input:not([type=checkbox]), textarea') !== null;
  if ((event.ctrlKey || event.metaKey) && !typing && /^[zy]$/i.test(event.key)) {
    event.preventDefault();
    if (event.key.toLowerCase() === 'y' || event.shiftKey) redo();
    else undo();
    return;
  }
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === 'v' && !event.repeat) before.value = true;
  else if (event.key === 'c') compare.value = !compare.value;
  else if (event.key === '1') close.value = !close.value;
});
useEventListener('keyup', (event) => {
  if (event.key === 'v') before.value = false;
});
const formatOf = (mime: string) => FORMAT_NAMES[mime.replace('image/', '') as keyof typeof FORMAT_NAMES];
const main = computed(() => detail.value?.family.of ?? undefined);
/** Whether what is made is as wide as pages show it. */
const soft = computed(() => {
  const [widest, made] = [edit.value?.widest, tried.value?.width];
  if (!widest || !made || isNothing(effective.value)) return '';
  if (made < widest)
    return `Too small for its pages: they show it ${widest} px wide, and it will be ${made} px. It will look soft.`;
  return made < 2 * widest
    ? `Large enough, but not for dense screens: those want ${2 * widest} px for ${widest} px on the page.`
    : '';
});
const pages = computed(() =>
  [...new Set(detail.value?.placements.map((one) => one.page))].map((page) => ({ key: page, label: page })),
);
const openPage = (page: string) => void router.push({ name: 'pages', query: { page } });
</script>

<template>
  <div class="bench">
    <header>
      <h1>
        Edit image <span v-if="edit" class="mono">{{ edit.name }}</span>
      </h1>
      <AppButton look="glyph" title="Undo (Ctrl + Z)" aria-label="Undo" :disabled="!canUndo" @click="undo()"
        ><PhArrowArcLeft :size="18"
      /></AppButton>
      <AppButton look="glyph" title="Redo (Ctrl + Y)" aria-label="Redo" :disabled="!canRedo" @click="redo()"
        ><PhArrowArcRight :size="18"
      /></AppButton>
      <AppButton :aria-pressed="before" @click="before = !before"
        >{{ before ? 'Show the edit' : 'Show the original' }} <kbd>V</kbd></AppButton
      >
      <AppButton :aria-pressed="compare" @click="compare = !compare">Compare <kbd>C</kbd></AppButton>
      <AppButton :aria-pressed="close" :disabled="!edit" @click="close = !close"
        >100 % <kbd>1</kbd></AppButton
      >
      <AppButton @click="back">{{ changed ? 'Discard and close' : 'Close' }}</AppButton>
      <AppButton look="main" title="Ctrl + Enter" :disabled="!canSave" @click="finish">{{
        piece.arrival === undefined ? 'Save …' : 'Use for intake'
      }}</AppButton>
    </header>
    <div class="work">
      <CloseView v-if="close && edit" :piece="piece" :recipe="effective" />
      <BenchStage
        v-show="!close"
        v-if="edit"
        ref="stage"
        :image="image"
        :recipe="shown"
        :size="edit.original"
        :tool="drawing ? 'none' : tool"
        :compare="compare"
        :clipping="clipping"
        :reading="reading"
        @frame="change({ frame: $event })"
        @straighten="change({ orient: { ...recipe.orient, straighten: $event } })"
        @cover="change({ covers: [...(recipe.covers ?? []), { ...$event, as: 'blur' }] })"
      />
      <aside v-if="edit" aria-label="Steps and settings">
        <div v-if="drawing" class="outputs">
          <p class="soft">
            A drawing has no pixels to crop or tone. Save it as an image in any size: choose a format.
          </p>
          <OutputTools
            :size="recipe.size"
            :file="recipe.file"
            :framed="edit.original"
            :mime="edit.original.mime"
            drawing
            @change="change"
          />
        </div>
        <BenchTools
          v-else
          v-model:tool="tool"
          v-model:clipping="clipping"
          v-model:reading="reading"
          :cells="stage?.cells"
          :recipe="recipe"
          :size="edit.original"
          :mime="edit.original.mime"
          :histogram="stage?.histogram"
          :levels="stage?.levels"
          :ratio="edit.ratio"
          :subject="piece.subject"
          @change="change"
        />
      </aside>
    </div>
    <footer>
      <ul v-if="steps.length" class="steps" aria-label="Steps">
        <li v-for="one in steps" :key="one.step">
          <AppCheckbox
            :model-value="!off.includes(one.step)"
            @update:model-value="off = $event ? off.filter((step) => step !== one.step) : [...off, one.step]"
            >{{ one.text }}</AppCheckbox
          >
          <AppButton
            look="glyph"
            :aria-label="`Remove: ${one.text}`"
            title="Remove this step"
            @click="change({ [one.step]: null })"
            ><PhX :size="13"
          /></AppButton>
        </li>
        <li><AppButton look="link" @click="recipe = NO_RECIPE">Back to the original</AppButton></li>
        <li v-if="site.may('settings')">
          <AppButton look="link" @click="keeping = true">Keep as treatment …</AppButton>
        </li>
      </ul>
      <p v-else-if="edit" class="soft">
        This is the original.
        {{ drawing ? 'Choose a format on the right.' : 'Drag the frame, or change something on the right.' }}
      </p>
      <p v-if="edit" class="figures facts" role="status">
        <span
          >Original {{ edit.original.width }} × {{ edit.original.height }} px, {{ weight(edit.bytes) }}</span
        >
        <template v-if="!isNothing(effective)">
          <span v-if="tried" :class="{ soft: trying }"
            >Saved {{ tried.width }} × {{ tried.height }} px, {{ formatOf(tried.mime) }},
            {{ weight(tried.bytes) }}{{ tried.quality ? `, quality ${tried.quality}` : '' }}</span
          >
          <span v-else-if="trying" class="soft">Measuring …</span>
        </template>
        <span v-if="pages.length"
          >Shown on
          <AppMenu label="Pages that show it" :items="pages" @choose="openPage"
            ><AppButton look="link">{{ count(pages.length, 'page') }}</AppButton></AppMenu
          >{{ edit.widest ? `, up to ${edit.widest.toLocaleString('en')} px wide` : '' }}</span
        >
      </p>
      <p v-if="main" class="note">
        This is a smaller size of
        <RouterLink :to="{ name: 'edit', params: { id: main.id } }">{{ main.name }}</RouterLink>. Edit that
        one instead, and its sizes are made anew with it.
      </p>
      <p v-if="soft" class="note">{{ soft }}</p>
      <p v-for="one in tried?.notes ?? []" :key="one" class="note">{{ one }}</p>
      <p v-if="fault || refused" class="note losing" role="alert">{{ fault || refused }}</p>
    </footer>
    <KeepTreatment v-if="keeping" :recipe="effective" @close="keeping = false" />
    <SaveDialog
      v-if="saving && edit && detail"
      :drawing="drawing"
      :path="detail.item.path"
      :sizes-there="edit.sizes"
      @close="saving = false"
      @save="save"
    />
  </div>
</template>

<style scoped>
.bench {
  display: flex;
  height: 100%;
  flex-direction: column;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 8px 16px;
  border-bottom: 1px solid var(--rule);
  gap: 6px 8px;
}
h1 {
  flex: 1;
  font-size: 17px;
}
h1 .mono {
  font-size: 14px;
  font-weight: 400;
}
.work {
  display: flex;
  min-height: 0;
  flex: 1;
}
aside {
  position: relative;
  width: 320px;
  flex: none;
  border-left: 1px solid var(--rule-strong);
  overflow: auto;
}
footer {
  padding: 8px 16px;
  border-top: 1px solid var(--rule-strong);
}
.outputs {
  padding: 14px;
}
.steps {
  display: flex;
  flex-wrap: wrap;
  padding: 0;
  gap: 2px 16px;
}
.steps li {
  display: flex;
  align-items: center;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
}
@media (width <= 760px) {
  .bench {
    height: auto;
  }
  .work {
    flex-direction: column;
  }
  .work :deep(.stage) {
    height: 56dvh;
    flex: none;
  }
  aside {
    width: auto;
    border-left: 0;
  }
}
</style>
