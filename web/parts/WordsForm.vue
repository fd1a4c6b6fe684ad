<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue';
import type { ItemView } from '../../api/items.ts';
import { FIELD_NAMES, TEXT_FIELDS, type OwnField } from '../../core/describe/fields.ts';
import OnlyWho from './OnlyWho.vue';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import WordField from './WordField.vue';
import { useWords } from './useWords.ts';
import AppButton from '../kit/AppButton.vue';
import AppDate from '../kit/AppDate.vue';
import AppCheckbox from '../kit/AppCheckbox.vue';
import AppInput from '../kit/AppInput.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';
import AppTags from '../kit/AppTags.vue';
import AppForm from '../kit/AppForm.vue';
import AppFold from '../kit/AppFold.vue';
import { laterPart } from '../kit/later.ts';

const OwnFields = laterPart(() => import('./OwnFields.vue'));

const props = defineProps<{
  item: ItemView;
  rights?: boolean;
  /** Of its tags, those that a service suggested and nobody has confirmed. */
  unconfirmed?: readonly string[];
}>();
const { words, state, fault, theirs, touch, save, keepMine, takeTheirs, refresh } = useWords(props.item);
watch(() => props.item, refresh);
const emit = defineEmits<{ confirmed: [] }>();
defineExpose({ save, words, touch });

const FIRST = ['title', 'caption'] as const;
const MORE = ['longDescription', 'description', 'taken', 'place', 'language'] as const;
const RIGHTS = ['creator', 'credit', 'copyright', 'source', 'licence', 'licenceEnd'] as const;

const known = ref<string[]>([]);
const ownFields = ref<OwnField[]>([]);
async function loadOwn() {
  ownFields.value = await api.ownFields();
}
onMounted(async () => {
  known.value = (await api.tags()).map((tag) => tag.name);
  await loadOwn();
});
/** As it is typed: what is drawn anew in between must not bring the old value back. */
function setOwn(field: string, value: string) {
  const { [field]: _before, ...rest } = words.own;
  words.own = value === '' ? rest : { ...rest, [field]: value };
}
/** Others read it. */
const site = useSite();
const mayWrite = computed(() => site.may('describe') && site.reachesItem(props.item));
/** Those that still stand there. */
const pending = computed(() => (props.unconfirmed ?? []).filter((tag) => words.tags.includes(tag)));
const plan = usePlan();
const refusal = ref('');
async function confirm() {
  refusal.value = '';
  try {
    await plan.make({ kind: 'confirm-tags', itemIds: [props.item.id], tags: [...pending.value] });
    emit('confirmed');
  } catch (error) {
    refusal.value = sentenceOf(error);
  }
}
const isPicture = computed(() => props.item.kind === 'image');

/** What someone else wrote where it differs from what stands here. */
const differing = computed(() =>
  (Object.keys(FIELD_NAMES) as (keyof typeof FIELD_NAMES)[])
    .filter(
      (field) => theirs.value && JSON.stringify(theirs.value.words[field]) !== JSON.stringify(words[field]),
    )
    .map((field) => ({
      name: FIELD_NAMES[field],
      mine: textOf(words[field]),
      theirs: textOf(theirs.value!.words[field]),
    })),
);
function textOf(value: string | boolean | string[] | Record<string, string>): string {
  return typeof value === 'object' && !Array.isArray(value)
    ? Object.entries(value)
        .map(([field, text]) => `${field}: ${text}`)
        .join('; ')
    : String(value);
}
function setDecorative(yes: boolean) {
  words.decorative = yes;
  void save();
}
</script>

<template>
  <AppForm class="words" :disabled="!mayWrite" @submit.prevent="save()">
    <OnlyWho right="describe" :item="item">can change this.</OnlyWho>
    <p class="state" role="status" :class="{ losing: fault }">{{ state }}</p>
    <div v-if="fault && !theirs" class="note losing" role="alert">
      {{ fault }}
      <AppButton look="link" @click="save()">Save again</AppButton>
    </div>
    <div v-if="theirs" class="note losing" role="alert">
      {{ fault }}
      <dl>
        <template v-for="one in differing" :key="one.name">
          <dt>{{ one.name }}</dt>
          <dd><span class="soft">theirs:</span> {{ one.theirs || '(empty)' }}</dd>
          <dd><span class="soft">yours:</span> {{ one.mine || '(empty)' }}</dd>
        </template>
      </dl>
      <AppButton @click="takeTheirs()">Use theirs</AppButton>
      <AppButton @click="keepMine()">Keep mine</AppButton>
    </div>
    <template v-if="isPicture">
      <label>
        <span>{{ TEXT_FIELDS.alt.name }}</span>
        <AppInput
          v-model="words.alt"
          class="alt"
          maxlength="2000"
          :disabled="words.decorative"
          :rows="3"
          @input="touch()"
          @change="save()"
        />
      </label>
      <slot name="alt"></slot>
      <AppCheckbox :model-value="words.decorative" @change="setDecorative">
        Decorative (screen readers skip it)</AppCheckbox
      >
    </template>
    <template v-for="field in FIRST" :key="field">
      <WordField v-model="words[field]" :field="field" @touch="touch()" @save="save()" />
      <slot :name="field"></slot>
    </template>
    <div class="field">
      <span id="tags-label">Tags</span>
      <AppTags v-model="words.tags" :known="known" :pending="pending" label="Tags" @change="save()" />
      <p v-if="pending.length" class="soft">
        Suggested, not confirmed: {{ pending.join(', ') }}.
        <AppButton v-if="mayWrite" look="link" @click="confirm">{{
          pending.length === 1 ? 'Confirm it' : 'Confirm them'
        }}</AppButton>
        <span v-if="refusal" class="losing" role="alert">{{ refusal }}</span>
      </p>
      <slot name="tags"></slot>
    </div>
    <AppFold
      title="More fields"
      :open="MORE.some((field) => words[field] !== '') || Object.keys(words.own).length > 0"
    >
      <WordField
        v-for="field in MORE"
        :key="field"
        v-model="words[field]"
        :field="field"
        @touch="touch()"
        @save="save()"
      />
      <label v-for="field in ownFields" :key="field.name">
        <span>{{ field.name }}</span>
        <AppSelect
          v-if="field.kind === 'choice'"
          :model-value="words.own[field.name] ?? ''"
          @change="(setOwn(field.name, $event), save())"
          ><AppOption value="" label="" />
          <AppOption v-for="choice in field.choices" :key="choice" :value="choice" :label="choice" />
        </AppSelect>
        <AppDate
          v-else-if="field.kind === 'date'"
          :model-value="words.own[field.name]"
          @update:model-value="setOwn(field.name, $event)"
          @change="save()"
        />
        <AppInput
          v-else
          :model-value="words.own[field.name]"
          :inputmode="field.kind === 'number' ? 'decimal' : undefined"
          maxlength="2000"
          @input="(setOwn(field.name, $event), touch())"
          @change="save()"
        />
      </label>
      <OwnFields @changed="loadOwn" />
    </AppFold>
    <AppFold v-if="rights" title="Rights" :open="Boolean(words.licence || words.credit || words.creator)">
      <WordField
        v-for="field in RIGHTS"
        :key="field"
        v-model="words[field]"
        :field="field"
        @touch="touch()"
        @save="save()"
      />
    </AppFold>
  </AppForm>
</template>

<style scoped>
.words {
  position: relative;
  display: flex;
  flex-direction: column;
  gap: 9px;
}
.state {
  position: absolute;
  top: 0;
  right: 0;
  color: var(--ink-soft);
  font-size: 12.5px;
}
.state.losing {
  color: var(--madder);
}
label,
.field {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
label > span,
.field > span:first-child {
  font-size: 12.5px;
  font-weight: 600;
}
.check {
  flex-direction: row;
  align-items: center;
  gap: 8px;
  min-height: 24px;
  font-size: 13px;
}
dl {
  margin: 6px 0;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0 0 2px;
}
.app-fold label {
  margin-top: 6px;
}
</style>
