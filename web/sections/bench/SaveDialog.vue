<script setup lang="ts">
import { ref } from 'vue';
import type { PlanRequest } from '../../../api/plans.ts';
import { folderOf, stemOf } from '../../../core/address/path.ts';
import { SIZES_TOO } from '../../../core/plan/kinds/prepare.ts';
import { count } from '../../parts/words.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppRadio from '../../kit/AppRadio.vue';

/** Where an edited image goes: in the place of the one it was made of, or beside it. */
const props = defineProps<{
  path: string;
  sizesThere: number;
  /** What is made of a drawing is another thing: it lies beside it, unless asked otherwise. */
  drawing?: boolean;
}>();
type To = Extract<PlanRequest, { kind: 'prepare' }>['to'];
const emit = defineEmits<{ close: []; save: [to: To] }>();
const as = ref<'this' | 'new'>(props.drawing ? 'new' : 'this');
const sizes = ref<(typeof SIZES_TOO)[number]>('all');
const folder = ref(folderOf(props.path));
const stem = ref(`${stemOf(props.path).split('/').at(-1)!}${props.drawing ? '' : '-edited'}`);
const SIZES: Record<(typeof SIZES_TOO)[number], string> = {
  all: 'the image and its smaller sizes',
  none: 'only the image; its smaller sizes stay as they are',
  sizes: 'only its smaller sizes; the image stays as it is',
};
function save() {
  emit(
    'save',
    as.value === 'this'
      ? { as: 'this', sizes: props.sizesThere > 0 ? sizes.value : 'all' }
      : { as: 'new', folder: folder.value.trim(), stem: stem.value.trim() },
  );
}
</script>

<template>
  <AppDialog :model-value="true" title="Save image" width="520px" @closed="emit('close')">
    <form id="save-image" @submit.prevent="save">
      <p>
        <AppRadio v-model="as" value="this" name="as"
          >Replace this image. Pages show the new one; you can go back to the original at any time.</AppRadio
        >
      </p>
      <div v-if="as === 'this' && props.sizesThere > 0" class="more">
        <p class="soft">{{ count(props.sizesThere, 'smaller size') }} of it on the site. Change</p>
        <p v-for="one in SIZES_TOO" :key="one">
          <AppRadio v-model="sizes" :value="one" name="sizes">{{ SIZES[one] }}</AppRadio>
        </p>
      </div>
      <p>
        <AppRadio v-model="as" value="new" name="as">Save as a new item. This image stays as it is.</AppRadio>
      </p>
      <div v-if="as === 'new'" class="more fields">
        <label>Folder <AppInput v-model="folder" placeholder="the site’s root" /></label>
        <label>Name, without extension <AppInput v-model="stem" /></label>
      </div>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton look="main" type="submit" form="save-image" :disabled="as === 'new' && !stem.trim()"
        >Review changes</AppButton
      >
    </template>
  </AppDialog>
</template>

<style scoped>
p {
  padding: 3px 0;
}
p :deep(.el-radio) {
  height: auto;
  white-space: normal;
}
.more {
  padding-left: 24px;
}
.fields {
  display: grid;
  gap: 8px;
}
</style>
