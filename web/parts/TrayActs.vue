<script setup lang="ts">
import { trim } from '../../core/text/cut.ts';
import AppDialog from './AppDialog.vue';
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
  words: 'Words of',
  move: 'Move',
  copy: 'Copy',
  owner: 'Who looks after',
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
  ['set', 'say the same in all of them'],
  ['replace', 'find and replace'],
  ['before', 'put something before it'],
  ['after', 'put something behind it'],
  ['case', 'change its case'],
  ['copy', 'copy another field into it'],
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
    copied.value = 'The browser did not let it be copied: select the text below and copy it yourself.';
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
          <input
            id="new-tags"
            v-model="adding"
            list="all-tags"
            placeholder="moon, open night"
            @keydown.enter.prevent="add"
          />
          <button class="act quiet" type="button" :disabled="!adding.trim()" @click="add">Add</button>
        </div>
        <datalist id="all-tags"><option v-for="tag in all" :key="tag" :value="tag" /></datalist>
        <ul class="tags">
          <li v-for="tag in added" :key="tag">
            <label
              ><input type="checkbox" checked @change="added = added.filter((one) => one !== tag)" />
              {{ tag }}</label
            >
            <span class="soft">new, on all of them</span>
          </li>
          <li v-for="tag in borne" :key="tag.name">
            <label
              ><input
                type="checkbox"
                :checked="stateOf(tag) === 'all'"
                :indeterminate="stateOf(tag) === 'some'"
                @change="decide(tag)"
              />
              {{ tag.name }}</label
            >
            <span class="soft figures">
              <template v-if="decided.get(tag.name) === 'all'">will be on all of them</template>
              <template v-else-if="decided.get(tag.name) === 'none'">will be taken off</template>
              <template v-else
                >on {{ tag.items === tray.size ? 'all' : `${tag.items} of ${tray.size}` }}</template
              >
            </span>
          </li>
        </ul>
      </template>
      <template v-else-if="act === 'words'">
        <label for="which-words">Field</label>
        <select id="which-words" v-model="field">
          <option v-for="one in TEXT_FIELD_KEYS" :key="one" :value="one">{{ TEXT_FIELDS[one].name }}</option>
        </select>
        <label for="which-edit">What to do</label>
        <select id="which-edit" v-model="how">
          <option v-for="[key, words] in EDITS" :key="key" :value="key">{{ words }}</option>
        </select>
        <template v-if="how === 'set'">
          <label for="new-words">{{ TEXT_FIELDS[field].name }}, the same for all of them</label>
          <input v-if="field === 'licenceEnd'" id="new-words" v-model="text" type="date" />
          <textarea v-else id="new-words" v-model="text" rows="3"></textarea>
        </template>
        <template v-else-if="how === 'replace'">
          <label for="find-words">Find this text</label>
          <input id="find-words" v-model="find" />
          <label for="new-words">and put in its place</label>
          <input id="new-words" v-model="text" placeholder="nothing" />
          <label><input v-model="exact" type="checkbox" /> only where capitals are the same</label>
        </template>
        <template v-else-if="how === 'before' || how === 'after'">
          <label for="new-words"
            >{{ how === 'before' ? 'Put before' : 'Put behind' }}, where something stands</label
          >
          <input
            id="new-words"
            v-model="text"
            :placeholder="how === 'before' ? 'Open night: ' : ', Corvane Hill'"
          />
        </template>
        <template v-else-if="how === 'case'">
          <label for="new-case">Letters</label>
          <select id="new-case" v-model="letters">
            <option value="sentence">Sentence case</option>
            <option value="title">Each Word</option>
            <option value="lower">lower case</option>
            <option value="upper">CAPITALS</option>
          </select>
        </template>
        <template v-else>
          <label for="from-field">Copy from</label>
          <select id="from-field" v-model="from">
            <option v-for="one in TEXT_FIELD_KEYS" :key="one" :value="one">
              {{ TEXT_FIELDS[one].name }}
            </option>
          </select>
          <label for="where-field">Where</label>
          <select id="where-field" v-model="where">
            <option value="empty">only where nothing stands</option>
            <option value="behind">behind what stands there</option>
            <option value="over">over what stands there</option>
          </select>
        </template>
        <p class="soft">What stood there before is struck in the plan, and can be brought back.</p>
      </template>
      <template v-else-if="act === 'move' || act === 'copy'">
        <label for="to-folder">To the folder</label>
        <input
          id="to-folder"
          v-model="folder"
          class="mono"
          list="to-folders"
          spellcheck="false"
          placeholder="the site’s root"
        />
        <datalist id="to-folders"><option v-for="one in folders" :key="one" :value="one" /></datalist>
        <p v-if="act === 'copy'" class="soft">
          The copies get the same words, tags and person. No page shows them until one is made to.
        </p>
        <p v-else class="soft">
          Moving changes addresses: the pages that show the items are rewritten, redirects are kept.
        </p>
      </template>
      <template v-else-if="act === 'owner'">
        <label for="to-person">In the care of</label>
        <select id="to-person" v-model="owner">
          <option value="">nobody</option>
          <option v-for="person in site.site?.people ?? []" :key="person.id" :value="person.name">
            {{ person.name }}
          </option>
        </select>
      </template>
      <fieldset v-else-if="act === 'family'" class="members">
        <legend>The image; the others become its sizes</legend>
        <label v-for="one in members" :key="one.id">
          <input v-model="main" type="radio" name="main" :value="one.id" />
          <span class="mono">{{ one.name }}</span>
          <span class="soft figures"
            ><template v-if="one.width">{{ one.width }} × {{ one.height }} px, </template
            >{{ weight(one.bytes) }}</span
          >
        </label>
      </fieldset>
      <template v-else>
        <div class="row" role="group" aria-label="Form of the addresses">
          <button
            v-for="[key, words] in [
              ['plain', 'Plain'],
              ['html', 'As HTML'],
              ['markdown', 'As Markdown'],
            ] as const"
            :key="key"
            class="act quiet"
            type="button"
            :aria-pressed="form === key"
            @click="addresses(key)"
          >
            {{ words }}
          </button>
          <button class="act" type="button" @click="copy">Copy</button>
        </div>
        <p role="status">{{ copied }}</p>
        <textarea :value="text" class="mono" rows="9" readonly aria-label="Addresses"></textarea>
      </template>
      <div v-if="act !== 'addresses'" class="foot">
        <button class="act quiet" type="button" @click="emit('close')">Not now</button>
        <button class="act" type="submit" :disabled="(!request && !adding.trim()) || plan.busy">
          Look at the plan
        </button>
      </div>
    </form>
  </AppDialog>
</template>

<style scoped src="./TrayActs.css"></style>
