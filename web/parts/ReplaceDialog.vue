<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ReplacementView } from '../../api/intake.ts';
import type { ItemView } from '../../api/items.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import AppDialog from './AppDialog.vue';
import ItemPicker from './ItemPicker.vue';
import ItemPicture from './ItemPicture.vue';
import { weight } from './words.ts';

/** Other bytes for an item: a file from this machine, or another item's. Its record and its references stay. */
const props = defineProps<{ item: ItemView }>();
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const file = ref<ReplacementView>();
const other = ref<ItemView>();
const picking = ref(false);
const name = ref<'keep' | 'new'>('keep');
const dates = ref<'keep' | 'new'>('keep');
const busy = ref(false);
const fault = ref('');
/** The plan has the file now: it leaves the door with it. */
let handedOn = false;

const open = computed({ get: () => true, set: () => void close() });
async function close() {
  if (file.value && !handedOn) await api.dropArrivalQuietly(file.value.arrivalId).catch(() => undefined);
  emit('close');
}
async function chosen(event: Event) {
  const [sent] = (event.target as HTMLInputElement).files ?? [];
  if (!sent) return;
  busy.value = true;
  fault.value = '';
  try {
    if (file.value) await api.dropArrivalQuietly(file.value.arrivalId);
    file.value = undefined;
    file.value = await api.sendReplacement(props.item.id, sent);
    other.value = undefined;
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
  }
}
async function show() {
  const by = file.value ? { arrivalId: file.value.arrivalId } : { itemId: other.value!.id };
  await plan.propose({ kind: 'replace', itemId: props.item.id, by, name: name.value, dates: dates.value });
  handedOn = plan.plan !== undefined;
  if (handedOn) emit('close');
  else fault.value = plan.fault;
}
const replacement = computed(() => file.value ?? other.value);
</script>

<template>
  <AppDialog v-model="open" width="640px" top="10vh" :title="`Replace “${item.name}”`">
    <div class="two">
      <div>
        <h3>Now</h3>
        <ItemPicture :sha256="item.sha256" :kind="item.kind" :name="item.name" />
        <p class="mono">{{ item.name }}</p>
        <p class="soft figures">
          <template v-if="item.width">{{ item.width }} × {{ item.height }} px, </template
          >{{ weight(item.bytes) }}
        </p>
      </div>
      <div>
        <h3>Then</h3>
        <template v-if="replacement">
          <ItemPicture v-if="other" :sha256="other.sha256" :kind="other.kind" :name="other.name" />
          <p class="mono">{{ replacement.name }}</p>
          <p class="soft figures">
            <template v-if="replacement.width"
              >{{ replacement.width }} × {{ replacement.height }} px, </template
            >{{ weight(replacement.bytes) }}
          </p>
        </template>
        <p>
          <label class="act quiet file"
            >A file of this machine …<input
              class="hidden-words"
              type="file"
              :disabled="busy"
              @change="chosen"
          /></label>
        </p>
        <p><button class="act quiet" type="button" @click="picking = true">Another item …</button></p>
        <p v-if="busy" role="status" class="soft">Sending and checking it …</p>
      </div>
    </div>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <fieldset>
      <legend>Its address</legend>
      <label
        ><input v-model="name" type="radio" value="keep" /> stays: every reference leads to the new
        file</label
      >
      <label
        ><input v-model="name" type="radio" value="new" /> takes the new name: every reference is
        rewritten</label
      >
    </fieldset>
    <fieldset>
      <legend>Its date taken</legend>
      <label><input v-model="dates" type="radio" value="keep" /> stays</label>
      <label><input v-model="dates" type="radio" value="new" /> is that of the new file</label>
    </fieldset>
    <p class="soft">The old file becomes a version of the item: it can be looked at and brought back.</p>
    <template #footer>
      <button class="act" type="button" :disabled="!replacement || busy || plan.busy" @click="show">
        Show the plan
      </button>
      <button class="act quiet" type="button" @click="close">Not now</button>
    </template>
    <ItemPicker
      v-if="picking"
      title="The item whose file is taken"
      @choose="
        other = $event;
        file = undefined;
        picking = false;
      "
      @close="picking = false"
    />
  </AppDialog>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
}
.two :deep(img),
.two :deep(svg) {
  max-width: 100%;
  height: 120px;
  object-fit: contain;
}
p {
  margin: 4px 0;
  overflow-wrap: anywhere;
}
.file {
  display: inline-block;
  position: relative;
}
.file:focus-within {
  outline: 2px solid var(--verdigris);
}
fieldset {
  display: grid;
  gap: 3px;
  margin: 8px 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
}
</style>
