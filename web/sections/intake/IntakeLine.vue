<script setup lang="ts">
import { computed, nextTick, onUnmounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { FindingView } from '../../../api/intake.ts';
import type { Words } from '../../../api/items.ts';
import type { Choices } from '../../../core/intake/finding.ts';
import { extensionOf, stemOf } from '../../../core/address/path.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { weight } from '../../parts/words.ts';
import { useIntake, type Line } from '../../stores/intake.ts';
import ArrivalFields from './ArrivalFields.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';

const props = defineProps<{ line: Line }>();
const emit = defineEmits<{ compare: [finding: FindingView] }>();
const intake = useIntake();
const router = useRouter();
const arrival = computed(() => props.line.arrival);
const stem = ref('');
const editing = ref(false);
const open = ref(false);

const FIELDS = [
  ['alt', 'Alt text'],
  ['title', 'Title'],
  ['caption', 'Caption'],
  ['tags', 'Tags'],
  ['creator', 'Creator'],
  ['credit', 'Credit'],
  ['copyright', 'Copyright'],
  ['source', 'Source'],
  ['licence', 'Licence'],
  ['licenceEnd', 'Licence ends'],
] as const;

const nameField = ref<InstanceType<typeof AppInput>>();
async function edit() {
  stem.value = stemOf(arrival.value!.name);
  editing.value = true;
  await nextTick();
  nameField.value?.select();
}
const row = ref<HTMLElement>();
/** @param again the keyboard goes on from the name that was just written */
async function rename(again = false) {
  if (!editing.value) return;
  editing.value = false;
  if (again) await focusName();
  const name = stem.value.trim() + extensionOf(arrival.value!.name);
  if (name !== arrival.value!.name) await intake.change([arrival.value!.id], { name });
}
async function leave() {
  editing.value = false;
  await focusName();
}
async function focusName() {
  await nextTick();
  row.value?.querySelector<HTMLElement>('.names button')?.focus();
}
/** Opened to be written in: the alt text comes first. */
async function openFields() {
  open.value = true;
  await nextTick();
  row.value?.querySelector<HTMLElement>('.words :is(input, textarea)')?.focus();
}
function saveWords(words: Partial<Words>) {
  void intake.change([arrival.value!.id], { words });
}
function take(finding: FindingView, key: string) {
  if (key === 'rename') void edit();
  else if (key === 'original') void intake.change([arrival.value!.id], { recipe: null });
  else if (key === 'describe') void openFields();
  else if (key === 'unpack') void intake.unpack(props.line);
  else void intake.change([arrival.value!.id], { choices: { [finding.code]: key } as Choices });
}
/** Nothing but keys that are pressed on the line itself. */
function onKey(event: KeyboardEvent) {
  const typing = (event.target as HTMLElement).closest('input:not([type=checkbox]), textarea');
  if (typing || event.ctrlKey || event.metaKey || event.altKey || event.key !== 'b') return;
  if (arrival.value?.editable) toBench();
}
const toBench = () => router.push({ name: 'edit-arrival', params: { id: arrival.value!.id } });
function choose(yes: boolean) {
  const ids = new Set(intake.chosen);
  if (yes) ids.add(arrival.value!.id);
  else ids.delete(arrival.value!.id);
  intake.chosen = ids;
}
const STATES = {
  waiting: 'Waiting',
  sending: 'Uploading',
  resting: 'Connection lost. The upload resumes by itself.',
  stopped: 'Upload interrupted. Choose the same file again to resume.',
  held: 'Upload interrupted. Allow the browser to read this file again to resume.',
  checking: 'Checking',
  ready: '',
  refused: 'refused',
};
const OUTCOMES = {
  'bring-in': '',
  replace: 'replaces the item',
  'leave-out': 'won’t be stored',
  unpack: '',
  ask: '',
};
/** A thumbnail at once, from the file itself, until the server's has come. */
const local = ref('');
watch(
  () => props.line.sending?.file,
  (file) => {
    URL.revokeObjectURL(local.value);
    local.value =
      file && /^image\/(jpeg|png|gif|webp|avif)$/.test(file.type) && file.size < 40_000_000
        ? URL.createObjectURL(file)
        : '';
  },
  { immediate: true },
);
onUnmounted(() => URL.revokeObjectURL(local.value));
const size = computed(() => {
  const one = arrival.value;
  if (!one) return undefined;
  const becomes = one.ready && one.ready.bytes !== one.bytes ? one.ready : undefined;
  return { from: one, becomes };
});
const where = computed(() => [arrival.value?.folder, arrival.value?.below].filter(Boolean).join('/'));
</script>

<template>
  <li ref="row" :class="[line.state, arrival?.outcome]" @keydown="onKey">
    <AppCheckbox
      v-if="arrival && line.state === 'ready'"
      :aria-label="`Choose ${line.givenName}`"
      :model-value="intake.chosen.has(arrival.id)"
      @change="choose"
    />
    <span v-else></span>
    <div class="picture">
      <ItemPicture
        v-if="arrival && line.state === 'ready'"
        :sha256="arrival.ready?.sha256 ?? arrival.sha256"
        :kind="arrival.kind"
        :name="arrival.name"
      />
      <img v-else-if="local" :src="local" alt="" />
    </div>
    <div class="names mono">
      <form v-if="editing && arrival" @submit.prevent="rename(true)">
        <AppInput
          ref="nameField"
          v-model="stem"
          :aria-label="`New name of ${line.givenName}`"
          @blur="rename()"
          @keydown.escape.stop="leave"
        />{{ extensionOf(arrival.name) }}
      </form>
      <AppButton v-else-if="arrival && line.state === 'ready'" look="link" title="Rename" @click="edit"
        >{{ arrival.name }}
      </AppButton>
      <del v-if="arrival && line.state === 'ready' && arrival.name !== line.givenName">{{
        line.givenName
      }}</del>
      <span v-if="line.state !== 'ready'">{{ line.givenName }}</span>
      <span v-if="where" class="soft">in {{ where }}</span>
    </div>
    <div class="size figures soft">
      <template v-if="size?.becomes">
        <template v-if="size.from.width && size.becomes.width !== size.from.width">
          <del>{{ size.from.width }} × {{ size.from.height }}</del
          ><br /><strong>{{ size.becomes.width }} × {{ size.becomes.height }} px</strong><br />
        </template>
        <template v-else-if="size.from.width"
          >{{ size.from.width }} × {{ size.from.height }} px<br
        /></template>
        <del v-if="weight(size.from.bytes) !== weight(size.becomes.bytes)">{{
          weight(size.from.bytes)
        }}</del>{{ ' ' }}
        <strong>{{ weight(size.becomes.bytes) }}</strong>
      </template>
      <template v-else>
        <template v-if="arrival?.width">{{ arrival.width }} × {{ arrival.height }} px<br /></template>
        {{ weight(line.bytes) }}
      </template>
    </div>
    <div class="says">
      <p v-if="line.fault" class="losing">{{ line.fault }}</p>
      <p v-else-if="STATES[line.state]" class="soft" role="status">
        {{ STATES[line.state] }}
        <AppButton v-if="line.state === 'held'" look="link" @click="intake.goOn(line)">
          Resume upload
        </AppButton>
      </p>
      <p
        v-for="finding in arrival?.findings ?? []"
        :key="finding.code + finding.text"
        :class="finding.weight"
      >
        {{ finding.text }}
        <span
          v-if="finding.remedies.length || finding.itemId"
          class="remedies"
          role="group"
          :aria-label="`Actions for ${line.givenName}`"
        >
          <AppButton
            v-for="remedy in finding.remedies"
            :key="remedy.key"
            look="link"
            :class="{ taken: finding.chosen === remedy.key }"
            :aria-pressed="finding.chosen === undefined ? undefined : finding.chosen === remedy.key"
            @click="take(finding, remedy.key)"
            ><span v-if="finding.chosen === remedy.key" aria-hidden="true">✓ </span>{{ remedy.text }}
          </AppButton>
          <AppButton v-if="finding.itemId" look="link" @click="emit('compare', finding)"> Compare </AppButton>
        </span>
      </p>
      <p v-if="arrival && OUTCOMES[arrival.outcome]" class="outcome">{{ OUTCOMES[arrival.outcome] }}</p>
    </div>
    <div class="act-on">
      <AppButton
        v-if="line.state === 'ready'"
        look="link"
        :aria-expanded="open"
        :aria-label="`Fields of ${line.givenName}`"
        @click="open = !open"
      >
        Fields
      </AppButton>
      <AppButton
        v-if="arrival?.editable && line.state === 'ready'"
        look="link"
        title="Edit image (B)"
        :aria-label="`Edit image: ${line.givenName}`"
        @click="toBench"
      >
        Edit image
      </AppButton>
      <AppButton
        look="link"
        :aria-label="`${line.state === 'refused' ? 'Remove from list' : 'Skip'}: ${line.givenName}`"
        @click="intake.drop(line)"
        >{{ line.state === 'refused' ? 'Remove from list' : 'Skip' }}
      </AppButton>
    </div>
    <ArrivalFields
      v-if="open && arrival"
      class="words"
      :fields="FIELDS"
      :values="arrival.words"
      :whose="`of ${line.givenName}`"
      @change="saveWords"
    />
    <div
      class="rule"
      role="progressbar"
      :aria-label="`Sending ${line.givenName}`"
      :aria-valuenow="Math.round(100 * line.sent)"
      aria-valuemin="0"
      aria-valuemax="100"
      :style="{ width: `${100 * line.sent}%` }"
    ></div>
  </li>
</template>

<style scoped>
li {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  display: grid;
  align-items: start;
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
  gap: 4px 14px;
  grid-template-columns: 16px 72px minmax(170px, 1fr) 122px minmax(240px, 2fr) 112px;
}
.act-on {
  display: flex;
  flex-direction: column;
  align-items: flex-end;
}
.picture {
  height: 50px;
}
.refused .picture {
  height: auto;
}
.picture img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.names {
  display: flex;
  min-width: 0;
  flex-direction: column;
  align-items: flex-start;
  overflow-wrap: anywhere;
}
.names .link {
  font: inherit;
  font-weight: 600;
  text-align: left;
  overflow-wrap: anywhere;
}
del {
  color: var(--madder);
}
.size strong {
  color: var(--verdigris);
}
.losing {
  color: var(--madder);
}
.says p {
  margin-bottom: 2px;
}
.says .tells {
  color: var(--ink-soft);
}
.says .asks {
  color: var(--ochre);
  font-weight: 600;
}
.says .warns {
  color: var(--ochre);
}
.remedies .link {
  margin-right: 8px;
  font-weight: 400;
}
.remedies .taken {
  font-weight: 650;
  text-decoration: none;
}
.leave-out .picture {
  opacity: 0.5;
}
.leave-out .names .link {
  font-weight: 400;
  text-decoration: none;
}
.size {
  white-space: nowrap;
}
.outcome {
  font-size: 12.5px;
  font-style: italic;
}
.words {
  padding: 6px 0 8px;
  grid-column: 3 / -1;
}
.rule {
  position: absolute;
  bottom: -1px;
  left: 0;
  height: 2px;
  background: var(--verdigris);
}
.refused .rule {
  background: var(--madder);
}
.resting .rule,
.held .rule,
.stopped .rule {
  background: var(--ochre);
}
@media (width <= 760px) {
  li {
    grid-template-columns: 16px 56px minmax(0, 1fr) auto;
  }
  .says,
  .act-on {
    grid-column: 2 / -1;
  }
  .act-on {
    flex-direction: row;
    justify-content: flex-start;
    gap: 14px;
  }
}
</style>
