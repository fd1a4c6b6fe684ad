<script setup lang="ts">
import { applyPatch, createPatch } from 'diff';
import { computed, ref, watch } from 'vue';
import type { DocumentView } from '../../../api/documents.ts';
import { documentsApi } from '../../api/documents.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import LineCompare from './LineCompare.vue';

/** The file has changed on the site while somebody was editing it: both texts, and the ways on. Nothing is overwritten unseen. */
const props = defineProps<{ document: DocumentView; theirs: DocumentView; base: string; mine: string }>();
const emit = defineEmits<{ take: [text: string]; drop: [] }>();
const open = ref(false);
/** The text that both began with; null: it is no longer kept. */
const began = ref<string | null>(null);
watch(
  () => [props.theirs.path, props.base],
  async () => {
    const kept = await documentsApi.text(props.theirs.path, props.base).catch(() => null);
    began.value = kept?.text ?? null;
  },
  { immediate: true },
);
/** Both changes in one text, where they touch different lines. */
const both = computed(() => {
  if (began.value === null) return undefined;
  const merged = applyPatch(props.theirs.text, createPatch('', began.value, props.mine), { fuzzFactor: 0 });
  return merged === false || merged === props.theirs.text ? undefined : merged;
});
function take(text: string) {
  open.value = false;
  emit('take', text);
}
function drop() {
  open.value = false;
  emit('drop');
}
</script>

<template>
  <p class="note losing" role="alert">
    “{{ theirs.name }}” has changed on the site since you opened it. Nothing of yours is lost.
    <AppButton look="link" @click="open = true">Compare …</AppButton>
  </p>
  <AppDialog v-model="open" width="860px" top="6vh" title="Two versions">
    <p>
      Lines marked <span aria-hidden="true">−</span><span class="hidden-words">removed</span> are only on the
      site, lines marked <span aria-hidden="true">+</span><span class="hidden-words">added</span> only in
      yours.
    </p>
    <LineCompare :before="theirs.text" :after="mine" label="The text on the site, and yours" />
    <p v-if="both !== undefined" class="soft">The two changes touch different lines, so both can be kept.</p>
    <p v-else class="soft">
      Both change the same lines, or lines next to each other. Choose the text to go on with, and edit it.
    </p>
    <template #footer>
      <AppButton @click="drop">Discard mine</AppButton>
      <AppButton @click="take(mine)">Continue with mine</AppButton>
      <AppButton v-if="both !== undefined" look="main" @click="take(both)">Keep both changes</AppButton>
    </template>
  </AppDialog>
</template>
