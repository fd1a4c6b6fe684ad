<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index';
import 'element-plus/es/components/select/style/css';
import 'element-plus/es/components/option/style/css';
import 'element-plus/es/components/tag/style/css';
import { computed, onMounted, ref, watch } from 'vue';
import type { ItemView } from '../../api/items.ts';
import { FIELD_NAMES, TEXT_FIELDS, type OwnField } from '../../core/describe/fields.ts';
import { api } from '../api/client.ts';
import OwnFields from './OwnFields.vue';
import WordField from './WordField.vue';
import { useWords } from './useWords.ts';

const props = defineProps<{ item: ItemView; rights?: boolean }>();
const { words, state, fault, theirs, touch, save, keepMine, takeTheirs, refresh } = useWords(props.item);
watch(() => props.item, refresh);
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
function setOwn(field: string, event: Event) {
  const value = (event.target as HTMLInputElement).value;
  const { [field]: _before, ...rest } = words.own;
  words.own = value === '' ? rest : { ...rest, [field]: value };
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
function setDecorative(event: Event) {
  words.decorative = (event.target as HTMLInputElement).checked;
  void save();
}
</script>

<template>
  <form class="words" @submit.prevent="save()">
    <p class="state" role="status" :class="{ losing: fault }">{{ state }}</p>
    <div v-if="fault && !theirs" class="note losing" role="alert">
      {{ fault }}
      <button class="link" type="button" @click="save()">Save again</button>
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
      <button class="act quiet" type="button" @click="takeTheirs()">Take theirs</button>
      <button class="act quiet" type="button" @click="keepMine()">Keep mine</button>
    </div>
    <template v-if="isPicture">
      <label>
        <span>{{ TEXT_FIELDS.alt.name }}</span>
        <textarea
          v-model="words.alt"
          class="alt"
          rows="3"
          maxlength="2000"
          :disabled="words.decorative"
          @input="touch()"
          @change="save()"
        ></textarea>
      </label>
      <slot name="alt"></slot>
      <label class="check"
        ><input type="checkbox" :checked="words.decorative" @change="setDecorative" /> Decorative: the page
        says all there is to say</label
      >
    </template>
    <template v-for="field in FIRST" :key="field">
      <WordField v-model="words[field]" :field="field" @touch="touch()" @save="save()" />
      <slot :name="field"></slot>
    </template>
    <div class="field">
      <span id="tags-label">Tags</span>
      <ElSelect
        v-model="words.tags"
        multiple
        filterable
        allow-create
        default-first-option
        :reserve-keyword="false"
        aria-label="Tags"
        placeholder="Add a tag"
        no-data-text="Type a tag and press Enter"
        @change="save()"
      >
        <ElOption v-for="tag in known" :key="tag" :label="tag" :value="tag" />
      </ElSelect>
    </div>
    <details :open="MORE.some((field) => words[field] !== '') || Object.keys(words.own).length > 0">
      <summary><h3>More words</h3></summary>
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
        <select
          v-if="field.kind === 'choice'"
          :value="words.own[field.name] ?? ''"
          @change="(setOwn(field.name, $event), save())"
        >
          <option value=""></option>
          <option v-for="choice in field.choices" :key="choice">{{ choice }}</option>
        </select>
        <input
          v-else
          :type="field.kind"
          step="any"
          :value="words.own[field.name] ?? ''"
          maxlength="2000"
          @input="(setOwn(field.name, $event), touch())"
          @change="save()"
        />
      </label>
      <OwnFields @changed="loadOwn" />
    </details>
    <details v-if="rights" :open="Boolean(words.licence || words.credit || words.creator)">
      <summary><h3>Rights</h3></summary>
      <WordField
        v-for="field in RIGHTS"
        :key="field"
        v-model="words[field]"
        :field="field"
        @touch="touch()"
        @save="save()"
      />
    </details>
  </form>
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
.field > span {
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
input:not([type='checkbox']),
select,
textarea {
  width: 100%;
  padding: 4px 8px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper-raised);
  resize: vertical;
}
textarea:disabled {
  background: var(--paper-sunk);
  color: var(--ink-soft);
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
details {
  padding-top: 4px;
}
details label {
  margin-top: 6px;
}
summary {
  min-height: 24px;
  cursor: pointer;
}
summary h3 {
  display: inline;
}
.act {
  margin-right: 8px;
}
</style>
