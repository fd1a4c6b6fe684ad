<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { PageDetail, ShownView } from '../../../api/pages.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count, weight } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { inOrder, type Measured } from './look.ts';
import AppButton from '../../kit/AppButton.vue';
import AppMenu from '../../kit/AppMenu.vue';

/** What a page shows, with the numbers that the drawn page has: item, words, shown size against real size. */
const props = defineProps<{
  detail: PageDetail;
  chosen: number | undefined;
  measured: readonly Measured[];
}>();
const emit = defineEmits<{
  choose: [at: number];
  exchange: [shown: ShownView];
  focus: [shown: ShownView];
  edit: [shown: ShownView];
  /** A background in a size that fits; CSS pixels that it is shown wide. */
  fit: [shown: ShownView, width: number];
  item: [id: number];
}>();

const plan = usePlan();
const router = useRouter();
const site = useSite();
/** Places that are an element of their own on the page: they are edited, moved and taken off. */
const OWN = /^(?:img|picture|video|audio|a|iframe|object|embed|md) /;
const isOwn = (shown: ShownView) =>
  props.detail.editable && shown.page === props.detail.path && OWN.test(shown.place);
/** A background that holds many more pixels than are shown. */
const wideOf = (shown: ShownView): number | undefined => {
  const box = measuredOf(shown);
  return box?.background && shown.width && shown.width > box.width * TOO_LARGE * 1.05 ? box.width : undefined;
};

const ACTS = {
  edit: 'Edit …',
  exchange: 'Replace on this page …',
  focus: 'Focal point …',
  up: 'Move up …',
  down: 'Move down …',
  fit: 'Use a fitting size …',
  take: 'Remove from page …',
  bench: 'Edit image',
  record: 'Open the record',
  tidy: 'Simplify the address …',
};
type Act = keyof typeof ACTS;
/** What can be done with a placement: below the chosen one, and by right click on any. */
function actsOn(shown: ShownView): { key: Act; label: string; danger: boolean }[] {
  const { editable } = props.detail;
  const own = isOwn(shown);
  const can: Record<Act, boolean> = {
    edit: own,
    exchange: editable && ['img src', 'md image', 'css url()'].includes(shown.place),
    focus: editable && shown.place === 'img src',
    up: own,
    down: own,
    fit: wideOf(shown) !== undefined && site.can('place'),
    take: own || (editable && shown.place === 'css url()'),
    bench: shown.kind === 'image' && site.may('clean'),
    record: true,
    tidy: Boolean(shown.untidy) && site.can('place'),
  };
  return (Object.keys(ACTS) as Act[])
    .filter((key) => can[key])
    .map((key) => ({ key, label: ACTS[key], danger: key === 'take' }));
}
function act(key: Act, shown: ShownView) {
  const { page, start, path } = shown;
  if (key === 'edit') emit('edit', shown);
  else if (key === 'exchange') emit('exchange', shown);
  else if (key === 'focus') emit('focus', shown);
  else if (key === 'fit') emit('fit', shown, wideOf(shown)!);
  else if (key === 'bench') void router.push({ name: 'edit', params: { id: shown.itemId } });
  else if (key === 'record') emit('item', shown.itemId);
  else if (key === 'take') void plan.propose({ kind: 'unplace', places: [{ page, start }] });
  // The same file under an address without empty segments.
  else if (key === 'tidy') void plan.propose({ kind: 'repair', places: [{ page, start, path }] });
  else void plan.propose({ kind: 'order', page, start, to: key });
}
const menu = useTemplateRef<{ openFor(event: Event): void }>('menu');
const asked = ref<ShownView>();
function ask(event: MouseEvent, shown: ShownView) {
  asked.value = shown;
  emit('choose', shown.at);
  menu.value?.openFor(event);
}

const list = ref<HTMLElement>();
const measuredOf = (shown: ShownView) => props.measured.find((one) => one.starts.includes(shown.at));
watch(
  () => props.chosen,
  async () => {
    await nextTick();
    list.value?.querySelector('.chosen')?.scrollIntoView({ block: 'nearest' });
  },
);
/** Other sizes of one image stand with it: they are the same to whoever looks. */
const groups = computed(() => {
  const found: { shown: ShownView; sizes: ShownView[] }[] = [];
  for (const shown of inOrder(props.detail, props.measured)) {
    const last = found.at(-1);
    const box = measuredOf(shown);
    const same = last && box !== undefined && measuredOf(last.shown) === box;
    if (same && shown.place.endsWith('srcset')) last.sizes.push(shown);
    else found.push({ shown, sizes: [] });
  }
  return found;
});
/** Those of the page itself, as the list of pages counts them, and those that its style sheets add. */
const own = computed(() => props.detail.shown.filter((shown) => shown.page === props.detail.path).length);
const fromElsewhere = computed(() => inOrder(props.detail, props.measured).length - own.value);
const isChosen = (shown: ShownView) =>
  props.chosen !== undefined &&
  (props.chosen === shown.at || measuredOf(shown)?.starts.includes(props.chosen) === true);
/** More than twice as many pixels as are shown: the rest is weight for nothing. */
const TOO_LARGE = 2;
function remarks(shown: ShownView): string[] {
  const found: string[] = [];
  const box = measuredOf(shown);
  if (wideOf(shown))
    found.push('This background is far larger than shown. Choose it to use a size that fits.');
  if (shown.place === 'img src' && !shown.hasAlt) found.push('No alt text on the page.');
  if (shown.sized === false) found.push('No width and height: the page jumps while it loads.');
  if (shown.loading === false && (box?.number ?? 0) > 2)
    found.push('No loading attribute: it is fetched before it is seen.');
  if (box && box.width > 0 && shown.width) {
    if (shown.width > box.width * TOO_LARGE * 1.05 && shown.bytes > 60_000 && !box.background)
      found.push(
        `About ${Math.round(100 - 100 * ((box.width * TOO_LARGE) / shown.width) ** 2)} % of its weight is not needed at this width.`,
      );
    if (shown.kind === 'image' && !shown.path.endsWith('.svg') && shown.width < box.width * 0.95)
      found.push('It is enlarged: it looks soft.');
  }
  if (/\.[a-z0-9]{2,5}$/i.test(shown.linkText ?? '')) found.push('Its link says a file name.');
  if (/\.[a-z0-9]{2,5}$/i.test(shown.title ?? '')) found.push('Its hover text is a file name.');
  return found;
}
</script>

<template>
  <ol ref="list" class="placements">
    <li
      v-for="{ shown, sizes } in groups"
      :key="shown.at"
      :class="{ chosen: isChosen(shown) }"
      @contextmenu.prevent="ask($event, shown)"
    >
      <AppButton look="tile" class="line" @click="emit('choose', shown.at)"
        ><b class="number figures">{{ measuredOf(shown)?.number ?? '·' }}</b>
        <ItemPicture class="thumb" :sha256="shown.sha256" :kind="shown.kind" :name="shown.path" />
        <span class="names">
          <span class="mono">{{ shown.path.slice(shown.path.lastIndexOf('/') + 1) }}</span>
          <span class="soft figures">
            {{ shown.place }}, line {{ shown.line
            }}<template v-if="shown.page !== detail.path">
              of <span class="mono">{{ shown.page }}</span></template
            >
            <template v-if="measuredOf(shown)?.width">
              <br />shown {{ measuredOf(shown)!.width }} × {{ measuredOf(shown)!.height }},
              <template v-if="shown.width">really {{ shown.width }} × {{ shown.height }}, </template
              >{{ weight(shown.bytes) }}
            </template>
            <template v-else>
              <br /><template v-if="shown.width">{{ shown.width }} × {{ shown.height }}, </template
              >{{ weight(shown.bytes) }}
            </template>
          </span>
        </span>
      </AppButton>
      <p v-if="shown.hasAlt" class="words">
        <template v-if="shown.alt">“{{ shown.alt }}”</template
        ><span v-else class="soft">Empty alt text: decorative here.</span>
      </p>
      <p v-if="sizes.length" class="words soft">
        Offered in {{ count(sizes.length, 'size') }}:
        <span class="mono">{{
          sizes
            .map((one) => (one.width ? `${one.width}` : one.path.slice(one.path.lastIndexOf('/') + 1)))
            .join(', ')
        }}</span>
      </p>
      <p v-if="shown.linkText" class="words soft">Link: “{{ shown.linkText }}”</p>
      <p v-if="shown.title" class="words soft">Hover: “{{ shown.title }}”</p>
      <p v-for="remark in remarks(shown)" :key="remark" class="ochre words">{{ remark }}</p>
      <p v-if="isChosen(shown)" class="acts">
        <AppButton v-for="one in actsOn(shown)" :key="one.key" look="link" @click="act(one.key, shown)"
          >{{ one.label }}
        </AppButton>
      </p>
    </li>
  </ol>
  <AppMenu
    ref="menu"
    label="Actions for the placement"
    :items="asked ? actsOn(asked) : []"
    @choose="(key) => asked && act(key, asked)"
  />
  <p v-if="groups.length === 0" class="soft">It shows no item.</p>
  <p v-else class="soft figures">
    {{ count(own, 'placement')
    }}<template v-if="fromElsewhere">, {{ fromElsewhere }} more from style sheets</template>
  </p>
</template>

<style scoped>
.placements {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 6px 8px;
  border-bottom: 1px solid var(--rule);
  border-left: 3px solid transparent;
}
li.chosen {
  border-left-color: var(--ochre);
  background: var(--paper-raised);
}
.line {
  display: flex;
  width: 100%;
  gap: 8px;
  align-items: flex-start;
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.number {
  min-width: 22px;
  padding: 0 4px;
  background: var(--verdigris);
  color: var(--on-verdigris);
  text-align: center;
}
.thumb {
  flex: none;
}
.line :deep(img),
.line :deep(svg) {
  width: 44px;
  height: 36px;
  object-fit: contain;
}
.names {
  display: grid;
  min-width: 0;
}
.mono {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.words {
  margin: 2px 0 0 30px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin: 4px 0 0 30px;
}
.ochre {
  color: var(--ochre);
}
</style>
