<script setup lang="ts">
import type { ItemView } from '../../../api/items.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count, moment, USE_WORDS, weight } from '../../parts/words.ts';

defineProps<{
  items: ItemView[];
  chosen: Set<number>;
  /** What is wrong with each, in sentences; such items can be chosen whatever their use. */
  reasons?: ReadonlyMap<number, string[]> | undefined;
}>();
const emit = defineEmits<{ toggle: [id: number]; open: [id: number] }>();
</script>

<template>
  <ul>
    <li v-for="item in items" :key="item.id">
      <input
        :id="`choose-${item.id}`"
        type="checkbox"
        :checked="chosen.has(item.id)"
        :disabled="!reasons && item.state === 'here' && item.use === 'placed'"
        :aria-label="`Choose ${item.path}`"
        @change="emit('toggle', item.id)"
      />
      <button class="picture" type="button" tabindex="-1" aria-hidden="true" @click="emit('open', item.id)">
        <ItemPicture :sha256="item.sha256" :kind="item.kind" :name="item.name" />
      </button>
      <div class="name">
        <button class="link mono" type="button" @click="emit('open', item.id)">{{ item.path }}</button>
        <p class="soft figures">
          {{ weight(item.bytes)
          }}<template v-if="item.width">, {{ item.width }} × {{ item.height }} px</template>
        </p>
        <p v-for="why in reasons?.get(item.id) ?? []" :key="why">{{ why }}</p>
      </div>
      <p class="use" :class="item.use">
        <template v-if="item.state === 'aside'"
          >set aside {{ item.asideAt ? moment(item.asideAt) : '' }}</template
        >
        <template v-else>{{
          item.use === 'placed' ? `placed ${count(item.placements, 'time')}: stays` : USE_WORDS[item.use]
        }}</template>
      </p>
    </li>
  </ul>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}
input {
  width: 18px;
  height: 18px;
  margin: 3px;
  accent-color: var(--verdigris);
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
  word-break: break-all;
}
.name .link {
  text-align: left;
}
.use.mentioned {
  color: var(--ochre);
}
.use.placed {
  color: var(--verdigris);
}
</style>
