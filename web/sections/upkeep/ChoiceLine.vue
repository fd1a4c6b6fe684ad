<script setup lang="ts">
import PathText from '../../parts/PathText.vue';
import type { ItemView } from '../../../api/items.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';

/** One item of a queue: chosen by its tick, opened by its image or name; what is said of it stands beside. */
defineProps<{ item: ItemView; chosen: boolean }>();
const emit = defineEmits<{ toggle: []; open: [] }>();
</script>

<template>
  <li>
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
