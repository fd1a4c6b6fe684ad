<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { PageDetail, PlacementDetail, ShownView } from '../../../api/pages.ts';
import type { PlanRequest } from '../../../api/plans.ts';
import { ALIGNMENTS, SPACINGS } from '../../../core/reference/placed-styles.ts';
import { api, sentenceOf } from '../../api/client.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import ClassChoice from './ClassChoice.vue';
import { usePlanned } from './usePlanned.ts';
import WrittenLines from './WrittenLines.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { laterPart } from '../../kit/later.ts';

const ItemPicker = laterPart(() => import('../../parts/ItemPicker.vue'));

/** One placement as it stands on the page: its words and its look. The page beside it shows each change before it is written. */
const props = defineProps<{ detail: PageDetail; shown: ShownView }>();
const emit = defineEmits<{ planned: [id: string | undefined]; done: []; close: [] }>();

const now = ref<PlacementDetail>();
const failed = ref('');
const decorative = ref(false);
const alt = ref('');
const title = ref('');
const linkText = ref('');
const caption = ref('');
const width = ref<number | null>(null);
const classes = ref('');
const align = ref<PlacementDetail['ours']['align']>('none');
const space = ref<PlacementDetail['ours']['space']>('none');
/** The poster that is chosen; null: none any more. Undefined: as it is. */
const poster = ref<ItemView | null>();
const picking = ref(false);
const track = ref('');
const language = ref('en');
const label = ref('English');
watch(
  () => props.shown.start,
  async () => {
    try {
      const found = await api.placement(props.detail.path, props.shown.start);
      alt.value = found.words.alt ?? '';
      decorative.value = found.words.alt === '';
      title.value = found.words.title ?? '';
      linkText.value = found.words.linkText ?? '';
      caption.value = found.caption ?? '';
      width.value = found.width ?? null;
      classes.value = found.classes.join(' ');
      align.value = found.ours.align;
      space.value = found.ours.space;
      track.value = found.captions[0] ? 'stays' : '';
      now.value = found;
    } catch (error) {
      failed.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const picture = computed(() => props.shown.kind === 'image' && props.shown.place !== 'a href');
const link = computed(() => now.value !== undefined && now.value.words.linkText !== null);
const html = computed(() => now.value !== undefined && !now.value.onlyWords);

/** Only what differs from what stands there. */
const changes = computed(() => {
  const is = now.value;
  if (!is) return {};
  const wantedAlt = decorative.value ? '' : alt.value.trim() || null;
  const wantedTitle = title.value.trim() || null;
  const wantedCaption = caption.value.trim() || null;
  const wantedWidth = width.value;
  return {
    ...(is.words.takesAlt && wantedAlt !== is.words.alt && (html.value || wantedAlt !== null)
      ? { alt: wantedAlt }
      : {}),
    ...(wantedTitle !== (is.words.title || null) && (html.value || wantedTitle !== null)
      ? { title: wantedTitle }
      : {}),
    ...(link.value && linkText.value.trim() && linkText.value.trim() !== is.words.linkText
      ? { linkText: linkText.value.trim() }
      : {}),
    ...(html.value && wantedCaption !== (is.caption || null) ? { caption: wantedCaption } : {}),
    ...(picture.value && html.value && wantedWidth !== is.width ? { shownWidth: wantedWidth } : {}),
    ...(html.value && classes.value.trim() !== is.classes.join(' ') ? { classes: classes.value.trim() } : {}),
    ...(html.value && (align.value !== is.ours.align || space.value !== is.ours.space)
      ? { ours: { align: align.value, space: space.value } }
      : {}),
    ...(poster.value !== undefined ? { posterId: poster.value?.id ?? null } : {}),
    ...(is.isFilm && track.value !== 'stays' && (track.value !== '' || is.captions.length > 0)
      ? {
          captions:
            track.value === '' ? null : { path: track.value, language: language.value, label: label.value },
        }
      : {}),
  };
});
const request = computed<PlanRequest | undefined>(() =>
  Object.keys(changes.value).length === 0
    ? undefined
    : { kind: 'placement', page: props.detail.path, start: props.shown.start, ...changes.value },
);
watch(request, (wanted) => wanted === undefined && emit('planned', undefined));
const { made, fault, busy, write } = usePlanned(
  () => request.value,
  (id) => emit('planned', id),
  () => emit('done'),
);
const name = computed(() => props.shown.path.slice(props.shown.path.lastIndexOf('/') + 1));
</script>

<template>
  <form class="placement" @submit.prevent="write" @keydown.escape.stop="emit('close')">
    <h2>Edit placement</h2>
    <p class="item">
      <ItemPicture :sha256="shown.sha256" :kind="shown.kind" :name="name" />
      <span>
        <span class="mono">{{ name }}</span>
        <span class="soft figures">{{ shown.place }}, line {{ shown.line }}</span>
      </span>
    </p>
    <p v-if="failed" class="note losing" role="alert">{{ failed }}</p>
    <template v-if="now">
      <template v-if="now.words.takesAlt">
        <label for="placed-alt">Alt text</label>
        <AppInput id="placed-alt" v-model="alt" maxlength="2000" :disabled="decorative" :rows="3" />
        <AppCheckbox v-model="decorative"> Decorative (empty alt text)</AppCheckbox>
      </template>
      <template v-if="link">
        <label for="placed-link">Link text</label>
        <AppInput id="placed-link" v-model="linkText" maxlength="2000" />
      </template>
      <template v-if="html || now.words.title !== null">
        <label for="placed-title">Hover text</label>
        <AppInput id="placed-title" v-model="title" maxlength="2000" />
      </template>
      <template v-if="html && !link">
        <label for="placed-caption">Caption</label>
        <AppInput id="placed-caption" v-model="caption" maxlength="5000" :rows="2" />
        <template v-if="picture && shown.width">
          <label for="placed-width">Width in pixels</label>
          <AppNumber
            id="placed-width"
            v-model="width"
            class="short"
            :min="16"
            :max="10000"
            :placeholder="String(shown.width)"
          />
        </template>
        <template v-if="now.isFilm">
          <h3>Poster and captions</h3>
          <p>
            <span class="mono">{{
              poster === undefined
                ? (now.poster?.split('/').at(-1) ?? 'no poster')
                : (poster?.name ?? 'no poster')
            }}</span>
            <AppButton look="link" @click="picking = true">Choose a poster …</AppButton>
            <AppButton v-if="poster === undefined ? now.poster : poster" look="link" @click="poster = null">
              No poster
            </AppButton>
          </p>
          <label for="placed-track">Captions file</label>
          <AppSelect id="placed-track" v-model="track"
            ><AppOption
              v-if="now.captions[0]"
              value="stays"
              :label="`${now.captions.map((one) => one.language).join(', ')}: as it is`"
            />
            <AppOption value="" label="none" />
            <AppOption v-for="path in now.tracks" :key="path" :value="path" :label="path" />
          </AppSelect>
          <template v-if="track && track !== 'stays'">
            <label for="placed-language">Language</label>
            <AppInput id="placed-language" v-model="language" class="short" maxlength="20" />
            <label for="placed-label">Shown as</label>
            <AppInput id="placed-label" v-model="label" maxlength="80" />
          </template>
          <p v-if="now.tracks.length === 0" class="soft">
            To choose captions here, bring in a .vtt file first.
          </p>
        </template>
        <fieldset>
          <legend>Classes of the site</legend>
          <ClassChoice v-model="classes" :offered="detail.classes" />
        </fieldset>
        <fieldset>
          <legend>Or our own small style sheet</legend>
          <label
            >Alignment
            <AppSelect v-model="align"
              ><AppOption
                v-for="(words, key) in ALIGNMENTS"
                :key="key"
                :value="key"
                :label="words"
              /> </AppSelect
          ></label>
          <label
            >Spacing
            <AppSelect v-model="space"
              ><AppOption
                v-for="(words, key) in SPACINGS"
                :key="key"
                :value="key"
                :label="words"
              /> </AppSelect
          ></label>
        </fieldset>
      </template>
      <p v-if="now.onlyWords" class="soft">Markdown keeps text only: no size, caption or classes.</p>
    </template>
    <WrittenLines v-if="made && request && !fault" :made="made" />
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <div class="buttons">
      <AppButton
        look="main"
        type="submit"
        :disabled="busy || !request || fault !== '' || !made || made.empty"
      >
        Save to page
      </AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </div>
    <ItemPicker
      v-if="picking"
      title="Choose a poster"
      :where="{ join: 'all', not: false, of: [{ test: 'kind', value: 'image', not: false }] }"
      @choose="
        poster = $event;
        picking = false;
      "
      @close="picking = false"
    />
  </form>
</template>

<style scoped>
.placement {
  display: grid;
  gap: 6px;
}
h2,
h3,
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
.short {
  width: 110px;
}
fieldset {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
