<script setup lang="ts">
import PathText from './PathText.vue';
import { computed, ref } from 'vue';
import type { ReplacementView } from '../../api/intake.ts';
import type { ItemView } from '../../api/items.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import AppDialog from '../kit/AppDialog.vue';
import ItemPicker from './ItemPicker.vue';
import ItemPicture from './ItemPicture.vue';
import { weight } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppFile from '../kit/AppFile.vue';
import AppRadio from '../kit/AppRadio.vue';

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
async function chosen([sent]: File[]) {
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
        <p class="mono"><PathText :path="item.name" /></p>
        <p class="soft figures">
          <template v-if="item.width">{{ item.width }} × {{ item.height }} px, </template
          >{{ weight(item.bytes) }}
        </p>
      </div>
      <div>
        <h3>Then</h3>
        <template v-if="replacement">
          <ItemPicture v-if="other" :sha256="other.sha256" :kind="other.kind" :name="other.name" />
          <p class="mono"><PathText :path="replacement.name" /></p>
          <p class="soft figures">
            <template v-if="replacement.width"
              >{{ replacement.width }} × {{ replacement.height }} px, </template
            >{{ weight(replacement.bytes) }}
          </p>
        </template>
        <p>
          <AppFile :disabled="busy" @files="chosen">Upload a file …</AppFile>
        </p>
        <p><AppButton @click="picking = true">Choose an item …</AppButton></p>
        <p v-if="busy" role="status" class="soft">Uploading and checking …</p>
      </div>
    </div>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <fieldset>
      <legend>File name</legend>
      <AppRadio v-model="name" value="keep" name="address">
        Keep the current name; references stay as they are</AppRadio
      >
      <AppRadio v-model="name" value="new" name="address"> Use the new name; references are updated</AppRadio>
    </fieldset>
    <fieldset>
      <legend>Date taken</legend>
      <AppRadio v-model="dates" value="keep" name="dates"> stays</AppRadio>
      <AppRadio v-model="dates" value="new" name="dates"> Use the new file’s date</AppRadio>
    </fieldset>
    <p class="soft">The old file is kept as a version. You can compare and restore it.</p>
    <template #footer>
      <AppButton look="main" :disabled="!replacement || busy || plan.busy" @click="show">
        Review changes
      </AppButton>
      <AppButton @click="close">Cancel</AppButton>
    </template>
    <ItemPicker
      v-if="picking"
      title="Choose the replacement"
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
fieldset {
  display: grid;
  gap: 3px;
  margin: 8px 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
}
</style>
