<script setup lang="ts">
import { trim } from '../../core/text/cut.ts';
import AppDialog from '../kit/AppDialog.vue';
import { computed, onMounted, ref } from 'vue';
import type { AddressForm, ItemView, TagCounts } from '../../api/items.ts';
import type { PlanRequest } from '../../api/plans.ts';
import { cleanTag } from '../../core/describe/record.ts';
import type { Edit } from '../../core/describe/edits.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS, type TextField } from '../../core/describe/fields.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import { useTray } from '../stores/tray.ts';
import { count, weight } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppCheckbox from '../kit/AppCheckbox.vue';
import AppDate from '../kit/AppDate.vue';
import AppInput from '../kit/AppInput.vue';
import AppOption from '../kit/AppOption.ts';
import AppRadio from '../kit/AppRadio.vue';
import AppSelect from '../kit/AppSelect.vue';

/** Acts on everything in the tray: each ends in a plan that is looked at before it is applied. */
type Act = 'tags' | 'words' | 'move' | 'copy' | 'owner' | 'family' | 'addresses';
const props = defineProps<{ act: Act }>();
const emit = defineEmits<{ close: [] }>();
const tray = useTray();
const plan = usePlan();
const site = useSite();
const fault = ref('');
const open = ref(true);

const TITLES: Record<Act, string> = {
  tags: 'Tags of',
  words: 'Edit fields of',
  move: 'Move',
  copy: 'Copy',
  owner: 'Assign',
  family: 'Join',
  addresses: 'Addresses of',
};

const borne = ref<TagCounts>([]);
const all = ref<string[]>([]);
const folders = ref<string[]>([]);
onMounted(async () => {
  try {
    if (props.act === 'tags') {
      borne.value = await api.tagsOf([...tray.ids]);
      all.value = (await api.tags()).map((tag) => tag.name);
    }
    if (props.act === 'move' || props.act === 'copy')
      folders.value = (await api.folders()).map((one) => one.folder).filter((one) => one !== '');
    if (props.act === 'family') {
      members.value = await api.itemsSome([...tray.ids]);
      main.value = [...members.value].sort((a, b) => (b.width ?? 0) - (a.width ?? 0))[0]?.id;
    }
    if (props.act === 'addresses') await addresses('plain');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});

/** Tags: what each is to become; those that some bear are mixed until the person decides. */
const adding = ref('');
const added = ref<string[]>([]);
const decided = ref(new Map<string, 'all' | 'none'>());
function add() {
  for (const tag of adding.value.split(',').map(cleanTag).filter(Boolean)) {
    const there = borne.value.find((one) => one.name.toLowerCase() === tag.toLowerCase());
    if (there) decided.value.set(there.name, 'all');
    else if (!added.value.includes(tag)) added.value.push(tag);
  }
  adding.value = '';
}
const stateOf = (tag: { name: string; items: number }) =>
  decided.value.get(tag.name) ?? (tag.items === tray.size ? 'all' : 'some');
function decide(tag: { name: string; items: number }) {
  decided.value.set(tag.name, stateOf(tag) === 'all' ? 'none' : 'all');
}
function chosen(state: 'all' | 'none'): string[] {
  return [...decided.value].filter(([, one]) => one === state).map(([name]) => name);
}

const field = ref<TextField>('credit');
const text = ref('');
const EDITS = [
  ['set', 'Set the same value'],
  ['replace', 'Find and replace'],
  ['before', 'Add before'],
  ['after', 'Add after'],
  ['case', 'Change letter case'],
  ['copy', 'Copy from another field'],
] as const;
const how = ref<(typeof EDITS)[number][0]>('set');
const find = ref('');
const exact = ref(false);
const letters = ref<'lower' | 'upper' | 'sentence' | 'title'>('sentence');
const from = ref<TextField>('title');
const where = ref<'over' | 'empty' | 'behind'>('empty');
const edit = computed<Edit | undefined>(() => {
  switch (how.value) {
    case 'set':
      return { edit: 'set', text: text.value };
    case 'replace':
      return find.value
        ? { edit: 'replace', find: find.value, replace: text.value, exact: exact.value }
        : undefined;
    case 'before':
    case 'after':
      return text.value ? { edit: how.value, text: text.value } : undefined;
    case 'case':
      return { edit: 'case', to: letters.value };
    default:
      return from.value === field.value ? undefined : { edit: 'copy', from: from.value, how: where.value };
  }
});
const folder = ref('');
const toFolder = computed(() => trim(folder.value.trim(), '/'));
const owner = ref('');
/** The image that the others are sizes of: the widest, unless another is chosen. */
const members = ref<ItemView[]>([]);
const main = ref<number>();
const request = computed<PlanRequest | undefined>(() => {
  const itemIds = [...tray.ids];
  switch (props.act) {
    case 'tags': {
      const addTags = [...added.value, ...chosen('all')];
      const removeTags = chosen('none');
      if (addTags.length + removeTags.length === 0) return undefined;
      return {
        kind: 'records',
        itemIds,
        ...(addTags.length ? { addTags } : {}),
        ...(removeTags.length ? { removeTags } : {}),
      };
    }
    case 'words':
      return edit.value && { kind: 'edit', itemIds, field: field.value, edit: edit.value };
    case 'move':
      return { kind: 'move', itemIds, folder: toFolder.value };
    case 'copy':
      return { kind: 'copies', itemIds, folder: toFolder.value };
    case 'owner':
      return { kind: 'records', itemIds, owner: owner.value || null };
    case 'family':
      return main.value === undefined
        ? undefined
        : { kind: 'family', itemIds: itemIds.filter((id) => id !== main.value), of: main.value };
    default:
      return undefined;
  }
});
async function look() {
  if (adding.value.trim()) add();
  if (!request.value) return;
  await plan.propose(request.value);
  emit('close');
}

const form = ref<AddressForm>('plain');
const copied = ref('');
async function addresses(wanted: AddressForm) {
  form.value = wanted;
  copied.value = '';
  try {
    text.value = (await api.addressesOf([...tray.ids].slice(0, 5000), wanted)).text;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
async function copy() {
  try {
    await navigator.clipboard.writeText(text.value);
    copied.value = `${count(text.value.split('\n').length, 'line')} copied.`;
  } catch {
    copied.value = 'The browser blocked copying. Select the text below and copy it yourself.';
  }
}
</script>

<template>
  <AppDialog
    v-model="open"
    :title="`${TITLES[act]} ${count(tray.size, 'item')}`"
    width="560px"
    @closed="emit('close')"
  >
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <form class="form" @submit.prevent="look">
      <template v-if="act === 'tags'">
        <label for="new-tags">Add tags</label>
        <div class="row">
          <AppInput
            id="new-tags"
            v-model="adding"
            list="all-tags"
            placeholder="moon, open night"
            @keydown.enter.prevent="add"
          />
          <AppButton :disabled="!adding.trim()" @click="add">Add</AppButton>
        </div>
        <datalist id="all-tags"><option v-for="tag in all" :key="tag" :value="tag" /></datalist>
        <ul class="tags">
          <li v-for="tag in added" :key="tag">
            <AppCheckbox :model-value="true" @change="added = added.filter((one) => one !== tag)">
              {{ tag }}</AppCheckbox
            >
            <span class="soft">new, on all items</span>
          </li>
          <li v-for="tag in borne" :key="tag.name">
            <AppCheckbox
              :model-value="stateOf(tag) === 'all'"
              :indeterminate="stateOf(tag) === 'some'"
              @change="decide(tag)"
            >
              {{ tag.name }}</AppCheckbox
            >
            <span class="soft figures">
              <template v-if="decided.get(tag.name) === 'all'">will be on all items</template>
              <template v-else-if="decided.get(tag.name) === 'none'">will be removed</template>
              <template v-else
                >on {{ tag.items === tray.size ? 'all' : `${tag.items} of ${tray.size}` }}</template
              >
            </span>
          </li>
        </ul>
      </template>
      <template v-else-if="act === 'words'">
        <label for="which-words">Field</label>
        <AppSelect id="which-words" v-model="field"
          ><AppOption v-for="one in TEXT_FIELD_KEYS" :key="one" :value="one" :label="TEXT_FIELDS[one].name" />
        </AppSelect>
        <label for="which-edit">Action</label>
        <AppSelect id="which-edit" v-model="how"
          ><AppOption v-for="[key, words] in EDITS" :key="key" :value="key" :label="words" />
        </AppSelect>
        <template v-if="how === 'set'">
          <label for="new-words">{{ TEXT_FIELDS[field].name }} for all items</label>
          <AppDate v-if="field === 'licenceEnd'" id="new-words" v-model="text" />
          <AppInput v-else id="new-words" v-model="text" :rows="3" />
        </template>
        <template v-else-if="how === 'replace'">
          <label for="find-words">Text to find</label>
          <AppInput id="find-words" v-model="find" />
          <label for="new-words">Replace with</label>
          <AppInput id="new-words" v-model="text" placeholder="nothing" />
          <AppCheckbox v-model="exact"> Match case</AppCheckbox>
        </template>
        <template v-else-if="how === 'before' || how === 'after'">
          <label for="new-words"
            >{{ how === 'before' ? 'Text before' : 'Text after' }} (only where the field isn’t empty)</label
          >
          <AppInput
            id="new-words"
            v-model="text"
            :placeholder="how === 'before' ? 'Open night: ' : ', Corvane Hill'"
          />
        </template>
        <template v-else-if="how === 'case'">
          <label for="new-case">Letters</label>
          <AppSelect id="new-case" v-model="letters"
            ><AppOption value="sentence" label="Sentence case" />
            <AppOption value="title" label="Each Word" />
            <AppOption value="lower" label="lower case" />
            <AppOption value="upper" label="CAPITALS" />
          </AppSelect>
        </template>
        <template v-else>
          <label for="from-field">Copy from</label>
          <AppSelect id="from-field" v-model="from"
            ><AppOption
              v-for="one in TEXT_FIELD_KEYS"
              :key="one"
              :value="one"
              :label="TEXT_FIELDS[one].name"
            />
          </AppSelect>
          <label for="where-field">Where</label>
          <AppSelect id="where-field" v-model="where"
            ><AppOption value="empty" label="Only if empty" />
            <AppOption value="behind" label="Add to the end" />
            <AppOption value="over" label="Replace existing text" />
          </AppSelect>
        </template>
        <p class="soft">You see every change before it is made, and can undo it.</p>
      </template>
      <template v-else-if="act === 'move' || act === 'copy'">
        <label for="to-folder">To folder</label>
        <AppInput
          id="to-folder"
          v-model="folder"
          class="mono"
          list="to-folders"
          spellcheck="false"
          placeholder="the site’s root"
        />
        <datalist id="to-folders"><option v-for="one in folders" :key="one" :value="one" /></datalist>
        <p v-if="act === 'copy'" class="soft">
          Copies get the same fields, tags and owner. Pages keep using the originals.
        </p>
        <p v-else class="soft">Moving changes addresses. Pages are updated and redirects are kept.</p>
      </template>
      <template v-else-if="act === 'owner'">
        <label for="to-person">Owner</label>
        <AppSelect id="to-person" v-model="owner"
          ><AppOption value="" label="nobody" />
          <AppOption
            v-for="person in site.site?.people ?? []"
            :key="person.id"
            :value="person.name"
            :label="person.name"
          />
        </AppSelect>
      </template>
      <fieldset v-else-if="act === 'family'" class="members">
        <legend>Main image (the others become its sizes)</legend>
        <AppRadio v-for="one in members" :key="one.id" v-model="main" name="main" :value="one.id">
          <span class="mono">{{ one.name }}</span>
          <span class="soft figures"
            ><template v-if="one.width">{{ one.width }} × {{ one.height }} px, </template
            >{{ weight(one.bytes) }}</span
          >
        </AppRadio>
      </fieldset>
      <template v-else>
        <div class="row" role="group" aria-label="Address format">
          <AppButton
            v-for="[key, words] in [
              ['plain', 'Plain'],
              ['html', 'As HTML'],
              ['markdown', 'As Markdown'],
            ] as const"
            :key="key"
            :aria-pressed="form === key"
            @click="addresses(key)"
            >{{ words }}
          </AppButton>
          <AppButton look="main" @click="copy">Copy</AppButton>
        </div>
        <p role="status">{{ copied }}</p>
        <AppInput :model-value="text" class="mono" readonly aria-label="Addresses" :rows="9" />
      </template>
      <div v-if="act !== 'addresses'" class="foot">
        <AppButton @click="emit('close')">Cancel</AppButton>
        <AppButton look="main" type="submit" :disabled="(!request && !adding.trim()) || plan.busy">
          Review changes
        </AppButton>
      </div>
    </form>
  </AppDialog>
</template>

<style scoped src="./TrayActs.css"></style>
