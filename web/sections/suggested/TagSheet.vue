<script setup lang="ts">
import { PhCheck, PhX } from '@phosphor-icons/vue';
import { computed, ref, shallowRef, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { OneSuggestion, SuggestedTagsView } from '../../../api/suggested-tags.ts';
import { baseName, type SitePath } from '../../../core/address/path.ts';
import { api } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import ItemPicture from '../../parts/ItemPicture.vue';
import PathText from '../../parts/PathText.vue';
import { count } from '../../parts/words.ts';
import { decisionOn, keyOf, nextDecision, type Decision, type Offered } from './decisions.ts';

/** Images by suggested tag, each with what becomes of it; beside them, why it was suggested. */
const props = defineProps<{ view: SuggestedTagsView; offered: Offered[] }>();
const decided = defineModel<ReadonlyMap<string, Decision>>('decided', { required: true });

/** Images of a group that are in sight before more are asked for. */
const SHOWN = 48;
const more = ref(new Set<string>());
const shownOf = ({ tag, of }: Offered) => (more.value.has(tag) ? of : of.slice(0, SHOWN));
const items = computed(() => new Map(props.view.items.map((one) => [one.id, one])));

function decide(tag: string, all: readonly OneSuggestion[], decision: Decision) {
  const next = new Map(decided.value);
  for (const { id } of all) next.set(keyOf(tag, id), decision);
  decided.value = next;
}
const on = (group: Offered, id: number) => decisionOn(decided.value, group, id);
const SAYS: Record<Decision, string> = {
  take: 'will be added',
  refuse: 'refused',
  leave: 'left for later',
};
const percent = (part: number) => `${Math.round(100 * part)} %`;

/** What is looked at: the image, and those by which it is known. */
const looked = shallowRef<{ tag: string; one: OneSuggestion }>();
const because = shallowRef<ItemView[]>([]);
watch(looked, async (now) => {
  because.value = [];
  if (!now || now.one.because.length === 0) return;
  const found = await api.itemsSome(now.one.because);
  if (looked.value === now) because.value = found;
});
watch(
  () => props.offered,
  ([first]) => {
    const still = looked.value;
    const there =
      still &&
      props.offered.some(({ tag, of }) => tag === still.tag && of.some(({ id }) => id === still.one.id));
    if (!there) looked.value = first && { tag: first.tag, one: first.of[0]! };
  },
  { immediate: true },
);
</script>

<template>
  <div class="sheet">
    <div class="groups">
      <section v-for="group in offered" :key="group.tag" :aria-label="`Tag ${group.tag}`">
        <header>
          <h2>{{ group.tag }}</h2>
          <span v-if="!group.known" class="new">new tag</span>
          <span class="soft figures"
            >{{ count(group.of.length, 'image')
            }}<template v-if="group.lessSure"
              >, {{ group.lessSure.toLocaleString('en') }} less sure</template
            ></span
          >
          <span class="acts">
            <AppButton look="link" @click="decide(group.tag, group.of, 'take')"
              >Add all {{ group.of.length > 1 ? group.of.length.toLocaleString('en') : '' }}</AppButton
            >
            <AppButton look="link" @click="decide(group.tag, group.of, 'refuse')">Refuse all</AppButton>
            <AppButton look="link" @click="decide(group.tag, group.of, 'leave')">Leave all</AppButton>
          </span>
        </header>
        <ul>
          <li v-for="one in shownOf(group)" :key="one.id">
            <AppButton
              look="tile"
              class="tile"
              :class="on(group, one.id)"
              :aria-label="`${baseName((items.get(one.id)?.path ?? '') as SitePath)}, ${percent(one.confidence)} sure, ${SAYS[on(group, one.id)]}`"
              @click="decide(group.tag, [one], nextDecision(on(group, one.id)))"
              @focus="looked = { tag: group.tag, one }"
              @pointerenter="looked = { tag: group.tag, one }"
            >
              <ItemPicture
                v-if="items.get(one.id)"
                :sha256="items.get(one.id)!.sha256"
                kind="image"
                :name="items.get(one.id)!.path"
              />
              <span class="mark" aria-hidden="true"
                ><PhCheck v-if="on(group, one.id) === 'take'" :size="14" weight="bold" /><PhX
                  v-else-if="on(group, one.id) === 'refuse'"
                  :size="14"
                  weight="bold"
              /></span>
              <span class="sure figures">{{ percent(one.confidence) }}</span>
            </AppButton>
          </li>
        </ul>
        <AppButton v-if="shownOf(group).length < group.of.length" look="link" @click="more.add(group.tag)"
          >Show all {{ count(group.of.length, 'image') }}</AppButton
        >
      </section>
    </div>
    <aside v-if="looked && items.get(looked.one.id)" aria-label="Why this tag">
      <div class="large">
        <ItemPicture
          :key="looked.one.id"
          :sha256="items.get(looked.one.id)!.sha256"
          kind="image"
          :name="items.get(looked.one.id)!.path"
          :size="1280"
        />
      </div>
      <p class="mono"><PathText :path="items.get(looked.one.id)!.path" /></p>
      <p>
        <strong>{{ looked.tag }}</strong>, {{ percent(looked.one.confidence) }} sure
      </p>
      <p v-if="looked.one.reason" class="soft">{{ looked.one.reason }}</p>
      <template v-if="because.length">
        <p class="soft">
          Because it looks like {{ because.length === 1 ? 'this' : `these ${because.length}` }}:
        </p>
        <ul class="because">
          <li v-for="item in because" :key="item.id">
            <ItemPicture
              :sha256="item.sha256"
              kind="image"
              :name="item.name"
              :placeholder="item.placeholder"
            />
            <span class="mono">{{ item.name }}</span>
          </li>
        </ul>
      </template>
    </aside>
  </div>
</template>

<style scoped>
.sheet {
  display: grid;
  min-height: 0;
  grid-template-columns: minmax(0, 1fr) 264px;
}
.groups {
  padding: 0 24px 18px;
  overflow: auto;
}
section {
  contain-intrinsic-size: auto 140px;
  content-visibility: auto;
}
section header {
  display: flex;
  align-items: baseline;
  padding: 12px 0 6px;
  gap: 10px;
}
h2 {
  margin: 0;
  font-size: 16px;
}
.new {
  padding: 0 6px;
  border: 1px solid var(--ochre);
  color: var(--ochre);
  font-size: 12px;
}
.acts {
  display: flex;
  margin-left: auto;
  gap: 12px;
}
ul {
  display: flex;
  flex-wrap: wrap;
  padding: 0;
  margin: 0;
  gap: 8px;
  list-style: none;
}
.tile {
  position: relative;
  width: 120px;
  height: 84px;
  padding: 0;
  border: 2px solid var(--verdigris);
  background: var(--paper-sunk);
  cursor: pointer;
}
.tile :deep(img) {
  width: 100%;
  height: 100%;
  object-fit: cover;
}
.tile.refuse {
  border-color: var(--madder);
}
.tile.leave {
  border-color: var(--rule);
}
.tile.refuse :deep(img) {
  opacity: 0.45;
}
.mark {
  position: absolute;
  top: 0;
  left: 0;
  display: grid;
  width: 22px;
  height: 22px;
  background: var(--verdigris);
  color: var(--on-verdigris);
  place-items: center;
}
.refuse .mark {
  background: var(--madder);
}
.leave .mark {
  display: none;
}
.sure {
  position: absolute;
  right: 0;
  bottom: 0;
  padding: 0 4px;
  background: var(--paper-raised);
  color: var(--ink);
  font-size: 12px;
}
aside {
  padding: 12px 18px;
  border-left: 1px solid var(--rule);
  font-size: 13.5px;
  overflow: auto;
}
aside p {
  margin: 0 0 6px;
}
.large {
  height: 170px;
  margin-bottom: 8px;
}
.large :deep(img) {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.because {
  flex-direction: column;
}
.because li {
  display: flex;
  align-items: center;
  gap: 8px;
}
.because :deep(img),
.because :deep(.sign) {
  width: 72px;
  height: 50px;
  object-fit: cover;
}
.because .mono {
  overflow: hidden;
  min-width: 0;
  font-size: 12px;
  text-overflow: ellipsis;
}
@media (width <= 760px) {
  .sheet {
    grid-template-columns: minmax(0, 1fr);
  }
  aside {
    display: none;
  }
  .groups {
    padding: 0 12px 12px;
  }
}
</style>
