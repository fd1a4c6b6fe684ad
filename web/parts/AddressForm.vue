<script setup lang="ts">
import PathText from './PathText.vue';
import { trim } from '../../core/text/cut.ts';
import { onMounted, ref } from 'vue';
import type { ItemDetail } from '../../api/items.ts';
import { api } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';

const props = defineProps<{ detail: ItemDetail }>();
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const name = ref(props.detail.item.name);
const folder = ref(props.detail.item.folder);
const folders = ref<string[]>([]);
const field = ref<InstanceType<typeof AppInput>>();

onMounted(async () => {
  field.value?.focus();
  field.value?.element()?.setSelectionRange(0, name.value.lastIndexOf('.'));
  folders.value = (await api.folders()).map((one) => one.folder).filter((one) => one !== '');
});

async function show() {
  await plan.propose({
    kind: 'address',
    itemId: props.detail.item.id,
    folder: trim(folder.value.trim(), '/'),
    name: name.value.trim(),
  });
  emit('close');
}
</script>

<template>
  <form class="address" @submit.prevent="show" @keydown.escape.stop="emit('close')">
    <label>
      <span>New name</span>
      <AppInput ref="field" v-model="name" class="mono" required maxlength="255" spellcheck="false" />
    </label>
    <p v-if="detail.cleanName !== detail.item.name" class="proposal">
      Suggested:
      <AppButton look="link" class="mono" @click="name = detail.cleanName"
        ><PathText :path="detail.cleanName"
      /></AppButton>
    </p>
    <label>
      <span>Folder</span>
      <AppInput
        v-model="folder"
        class="mono"
        list="folders"
        maxlength="2000"
        spellcheck="false"
        placeholder="the site’s root"
      />
      <datalist id="folders"><option v-for="one in folders" :key="one" :value="one" /></datalist>
    </label>
    <div class="buttons">
      <AppButton look="main" type="submit" :disabled="plan.busy">Review changes</AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </div>
  </form>
</template>

<style scoped>
.address {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 10px;
  border: 1px solid var(--rule-strong);
  background: var(--paper-raised);
}
label span {
  display: block;
  font-size: 12.5px;
  font-weight: 600;
}
.proposal {
  font-size: 13px;
}
.proposal .link {
  text-align: left;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
