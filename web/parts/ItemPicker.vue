<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ItemView } from '../../api/items.ts';
import { EVERYTHING, writeQuery, type Group } from '../../core/find/query.ts';
import type { Query } from '../api/client.ts';
import FindSentence from '../sections/library/FindSentence.vue';
import { useFound } from '../sections/library/useFound.ts';
import { useSite } from '../stores/site.ts';
import AppDialog from '../kit/AppDialog.vue';
import { laterPart } from '../kit/later.ts';
import ItemPicture from './ItemPicture.vue';
import { count, weight } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';

/** The Library to choose one item from: the same words, the same conditions. */
const props = defineProps<{ title: string; where?: Group }>();
const emit = defineEmits<{ choose: [item: ItemView]; close: [] }>();
const site = useSite();
const words = ref('');
const where = ref<Group>(props.where ?? EVERYTHING);
const query = computed<Query>(() => ({
  q: words.value,
  where: writeQuery(where.value),
  sort: words.value ? 'rank' : 'added',
}));
const { ids, total, items, need, loaded, fault } = useFound(query, () => site.revision);
const STEP = 60;
const most = ref(STEP);
const shown = computed(() => {
  need(0, Math.min(most.value, ids.value.length));
  return [...ids.value.subarray(0, most.value)];
});
const open = computed({ get: () => true, set: () => emit('close') });
const FindImage = laterPart(() => import('../sections/intake/FindImage.vue'));
/** Nothing of it is in the library yet: looked for in the image bank. */
const finding = ref(false);
</script>

<template>
  <AppDialog v-model="open" width="900px" top="4vh" :title="title">
    <div class="finder">
      <label>
        <span class="hidden-words">Words to find</span>
        <AppInput v-model="words" type="search" placeholder="Words in names, texts, tags …" />
      </label>
      <FindSentence
        :where="where"
        :query="query"
        :words="words"
        :entry="false"
        @change="where = $event"
        @drop="words = ''"
      />
      <p class="soft figures" role="status">
        {{ loaded ? count(total, 'item') : 'Looking …' }}
        <AppButton v-if="site.site?.imageBank && site.may('bring-in')" look="link" @click="finding = true"
          >Find an image …</AppButton
        >
      </p>
    </div>
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <ul class="choices">
      <li v-for="id in shown" :key="id">
        <AppButton v-if="items.get(id)" look="tile" @click="emit('choose', items.get(id)!)"
          ><ItemPicture
            :sha256="items.get(id)!.sha256"
            :kind="items.get(id)!.kind"
            :name="items.get(id)!.name"
            :placeholder="items.get(id)!.placeholder"
          />
          <span class="mono">{{ items.get(id)!.name }}</span>
          <span class="soft figures">
            <template v-if="items.get(id)!.width"
              >{{ items.get(id)!.width }} × {{ items.get(id)!.height }} px, </template
            >{{ weight(items.get(id)!.bytes) }}
          </span>
        </AppButton>
      </li>
    </ul>
    <p v-if="loaded && total === 0" class="empty">No items match. Remove a filter, or try other words.</p>
    <AppButton v-if="ids.length > most" @click="most += STEP">
      Show more of {{ count(total, 'item') }}
    </AppButton>
    <FindImage v-if="finding" choosing :first="words" @close="finding = false" />
  </AppDialog>
</template>

<style scoped>
.finder {
  display: grid;
  gap: 8px;
}
.choices {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 12px;
  max-height: 56vh;
  margin: 10px 0;
  padding: 2px;
  overflow: auto;
  list-style: none;
}
.choices button {
  display: grid;
  width: 100%;
  gap: 2px;
  padding: 6px;
  border: 1px solid var(--rule);
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.choices button:hover,
.choices button:focus-visible {
  border-color: var(--verdigris);
}
.choices :deep(img) {
  width: 100%;
  height: 96px;
  object-fit: contain;
}
.choices .mono {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
