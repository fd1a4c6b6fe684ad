<script setup lang="ts">
import { PhCrop } from '@phosphor-icons/vue';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import PathText from '../../parts/PathText.vue';
import type { ItemView } from '../../../api/items.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';

/** One item of a queue: chosen by its tick, opened by its image or name; what is said of it stands beside. */
const props = defineProps<{ item: ItemView; chosen: boolean }>();
const emit = defineEmits<{ toggle: []; open: [] }>();
const router = useRouter();
const editable = computed(() => props.item.kind === 'image' && props.item.state === 'here');
function onKey(event: KeyboardEvent) {
  const typing = (event.target as HTMLElement).closest('input:not([type=checkbox]), textarea');
  if (typing || event.ctrlKey || event.metaKey || event.altKey || event.key !== 'b') return;
  if (!editable.value) return;
  event.stopPropagation();
  void router.push({ name: 'edit', params: { id: props.item.id } });
}
</script>

<template>
  <li @keydown="onKey">
    <AppCheckbox :model-value="chosen" :aria-label="`Choose ${item.path}`" @change="emit('toggle')" />
    <AppButton look="tile" class="picture" tabindex="-1" aria-hidden="true" @click="emit('open')"
      ><ItemPicture
        :sha256="item.sha256"
        :kind="item.kind"
        :name="item.name"
        :placeholder="item.placeholder"
      />
    </AppButton>
    <div class="name">
      <AppButton look="link" class="mono" @click="emit('open')"><PathText :path="item.path" /></AppButton>
      <slot></slot>
    </div>
    <AppButton
      v-if="editable"
      look="glyph"
      title="Edit image (B)"
      :aria-label="`Edit image: ${item.path}`"
      @click="router.push({ name: 'edit', params: { id: item.id } })"
      ><PhCrop :size="16"
    /></AppButton>
    <p class="facts soft figures"><slot name="facts"></slot></p>
  </li>
</template>

<style scoped>
li {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}
.picture {
  width: 84px;
  height: 54px;
  flex: none;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.name {
  min-width: 0;
  flex: 1;
}
.link {
  text-align: left;
}
.name :slotted(p),
.facts {
  margin: 0;
}
.facts {
  text-align: right;
}
@media (width <= 760px) {
  li {
    flex-wrap: wrap;
    gap: 4px 10px;
  }
  .name {
    flex-basis: 180px;
  }
  .facts {
    padding-left: 34px;
    text-align: left;
  }
}
</style>
