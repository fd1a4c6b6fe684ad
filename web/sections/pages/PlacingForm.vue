<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { PageDetail } from '../../../api/pages.ts';
import type { PlanRequest } from '../../../api/plans.ts';
import { captionWithCredit } from '../../../core/describe/licence.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import type { SpotChoice } from './look.ts';
import ClassChoice from './ClassChoice.vue';
import { usePlanned } from './usePlanned.ts';
import WrittenLines from './WrittenLines.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppRadio from '../../kit/AppRadio.vue';

/** How an item is put on the page; the page beside it shows each choice before anything is written. */
const props = defineProps<{
  detail: PageDetail;
  item: ItemView;
  spot: SpotChoice;
  /** CSS pixels that it is shown wide there. */
  fitting?: number | undefined;
}>();
const emit = defineEmits<{ planned: [id: string | undefined]; done: []; close: []; another: [] }>();

const picture = computed(() => props.item.kind === 'image');
const asBackground = computed(() => 'background' in props.spot || 'behind' in props.spot);
/** As it would be written: with the credit that the licence asks for. */
const written = captionWithCredit(props.item.words);
const caption = ref(written !== '');
const classes = ref('');
const size = ref<'web' | 'full'>('web');
const sizes = ref(true);
const shownWidth = ref<number | null>(props.fitting ?? null);
const request = computed<PlanRequest>(() => ({
  kind: 'place',
  page: props.detail.path,
  spot: props.spot,
  itemId: props.item.id,
  caption: caption.value,
  classes: classes.value.trim(),
  shownWidth: shownWidth.value || null,
  sizes: sizes.value,
  full: size.value === 'full',
}));
const { made, fault, busy, write } = usePlanned(
  () => request.value,
  (id) => emit('planned', id),
  () => emit('done'),
);
</script>

<template>
  <form class="placing" @submit.prevent="write" @keydown.escape.stop="emit('close')">
    <h2>
      {{ 'at' in spot ? 'Place an item' : 'behind' in spot ? 'Set background' : 'Replace on this page' }}
    </h2>
    <p class="item">
      <ItemPicture :sha256="item.sha256" :kind="item.kind" :name="item.name" />
      <span>
        <span class="mono">{{ item.name }}</span>
        <AppButton look="link" @click="emit('another')">Choose an item …</AppButton>
      </span>
    </p>
    <p v-if="picture && !item.words.alt && !item.words.decorative" class="note ochre">
      This item has no alt text yet.
    </p>
    <p v-else-if="picture && !asBackground" class="soft">
      Alt text: {{ item.words.decorative ? 'empty (decorative)' : `“${item.words.alt}”` }}
    </p>
    <fieldset v-if="asBackground">
      <legend>Size</legend>
      <AppRadio v-model="size" value="web" name="size">
        Fitting<template v-if="fitting"
          >: shown {{ fitting }} px wide, sharp on dense screens</template
        ></AppRadio
      >
      <AppRadio v-model="size" value="full" name="size">
        full size ({{ item.width }} × {{ item.height }})</AppRadio
      >
    </fieldset>
    <template v-if="!asBackground">
      <fieldset v-if="picture">
        <legend>Size</legend>
        <AppRadio v-model="size" value="web" name="size"> web size</AppRadio>
        <AppRadio v-model="size" value="full" name="size">
          full size ({{ item.width }} × {{ item.height }})</AppRadio
        >
        <AppCheckbox v-model="sizes"> Add responsive sizes</AppCheckbox>
        <label
          >Maximum width
          <AppNumber v-model="shownWidth" class="short" :min="16" :max="10000" placeholder="any" />
          px wide</label
        >
      </fieldset>
      <AppCheckbox v-if="'at' in spot && picture" v-model="caption" :disabled="!written">
        With caption
        <span v-if="!written" class="soft">(the record has none)</span>
        <span v-else class="soft">“{{ written }}”</span>
      </AppCheckbox>
      <fieldset v-if="'at' in spot">
        <legend>Alignment and spacing, by classes of the site</legend>
        <ClassChoice v-model="classes" :offered="detail.classes" />
      </fieldset>
    </template>
    <WrittenLines v-if="made && !fault" :made="made" />
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <div class="buttons">
      <AppButton look="main" type="submit" :disabled="busy || fault !== '' || !made || made.empty">
        Save to page
      </AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </div>
    <p v-if="busy" class="soft" role="status">Working …</p>
  </form>
</template>

<style scoped>
.placing {
  display: grid;
  gap: 8px;
}
h2,
p {
  margin: 0;
}
.item {
  display: flex;
  gap: 10px;
}
.item > span {
  display: grid;
  align-content: start;
}
.item :deep(img),
.item :deep(svg) {
  width: 84px;
  height: 64px;
  object-fit: contain;
}
fieldset {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
}
.short {
  width: 76px;
}
.ochre {
  color: var(--ochre);
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
