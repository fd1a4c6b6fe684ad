<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { BankImageView, BankQuery } from '../../../api/image-bank.ts';
import { COLOURS, LICENCE_KINDS, PAGE, SHAPES } from '../../../core/bank/protocol.ts';
import { LICENCE_NAMES } from '../../../core/bank/terms.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { bankApi } from '../../api/services.ts';
import { count } from '../../parts/words.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { priceOf } from './bank-price.ts';
import BankLook from './BankLook.vue';

/** Finds images in the image bank, to be brought to the list of Intake. */
const props = defineProps<{
  /** From where an item is to be chosen: what is found has to be brought in first. */
  choosing?: boolean;
  /** Words that were looked for already. */
  first?: string;
}>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const words = ref(props.first ?? '');
const shape = ref('');
const colour = ref('');
const licence = ref('');

const bank = ref('');
const images = ref<BankImageView[]>([]);
const total = ref<number>();
const own = ref(0);
const busy = ref(false);
const fault = ref('');
const queryOf = (page: number): BankQuery => ({
  words: words.value.trim(),
  ...(shape.value ? { shape: shape.value as (typeof SHAPES)[number] } : {}),
  ...(colour.value ? { colour: colour.value as (typeof COLOURS)[number] } : {}),
  ...(licence.value ? { licence: licence.value as (typeof LICENCE_KINDS)[number] } : {}),
  page,
});
/** The latest question; an answer to an earlier one is not shown any more. */
let asked = 0;
async function search(page = 1) {
  const question = ++asked;
  busy.value = true;
  fault.value = '';
  try {
    const [found, ours] = await Promise.all([
      bankApi.images(queryOf(page)),
      words.value.trim() && page === 1
        ? api.items({ q: words.value.trim(), where: 'kind:image', limit: 1 })
        : null,
    ]);
    if (question !== asked) return;
    bank.value = found.bank;
    total.value = found.total;
    images.value = page === 1 ? found.images : [...images.value, ...found.images];
    if (page === 1) [own.value, looked.value] = [ours?.total ?? 0, undefined];
  } catch (error) {
    if (question === asked) fault.value = sentenceOf(error);
  } finally {
    if (question === asked) busy.value = false;
  }
}
void search();
function showOwn() {
  emit('close');
  void router.push({ name: 'library', query: { q: words.value.trim(), where: 'kind:image' } });
}

/** Items that show the same as a result, by its number: asked for one after the other, while one looks at the results. */
const alike = ref(new Map<string, readonly { id: number; path: string }[]>());
const unlooked = ref('');
watch(images, async (results) => {
  unlooked.value = '';
  for (const { id } of results) {
    if (images.value !== results) return;
    if (alike.value.has(id)) continue;
    try {
      alike.value = new Map(alike.value).set(id, await bankApi.alike(id));
    } catch (error) {
      unlooked.value = `Whether your library has some like these couldn’t be looked up. ${sentenceOf(error)}`;
      return;
    }
  }
});

const have = (number: number) => `you have ${number === 1 ? 'one' : number} like this`;

const looked = ref<BankImageView>();
const taken = ref<string[]>([]);
async function brought() {
  taken.value = [...taken.value, looked.value!.id];
  looked.value = undefined;
  await search();
}
const open = computed({ get: () => true, set: () => emit('close') });
</script>

<template>
  <AppDialog
    v-model="open"
    width="1040px"
    top="4vh"
    :title="bank ? `Find an image at ${bank}` : 'Find an image'"
  >
    <form v-if="!looked" class="finder" @submit.prevent="search()">
      <AppInput v-model="words" type="search" aria-label="Words to find" placeholder="What should it show?" />
      <AppSelect v-model="shape" aria-label="Shape" :chars="11" @change="search()"
        ><AppOption value="" label="any shape" />
        <AppOption v-for="one in SHAPES" :key="one" :value="one" :label="one" />
      </AppSelect>
      <AppSelect v-model="colour" aria-label="Colour" :chars="10" @change="search()"
        ><AppOption value="" label="any colour" />
        <AppOption v-for="one in COLOURS" :key="one" :value="one" :label="one" />
      </AppSelect>
      <AppSelect v-model="licence" aria-label="Licence" :chars="20" @change="search()"
        ><AppOption value="" label="any licence" />
        <AppOption v-for="one in LICENCE_KINDS" :key="one" :value="one" :label="LICENCE_NAMES[one]" />
      </AppSelect>
      <AppButton look="main" type="submit" :busy="busy">Search</AppButton>
    </form>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="taken.length && !looked" class="note" role="status">
      {{ count(taken.length, 'image') }} brought to Intake.
      <template v-if="choosing">
        Check and bring {{ taken.length === 1 ? 'it' : 'them' }} in there; then choose from the library.
        <RouterLink :to="{ name: 'intake' }">Go to Intake</RouterLink>
      </template>
      <template v-else>Close this window to check and bring in.</template>
    </p>

    <BankLook
      v-if="looked"
      :key="looked.id"
      :image="looked"
      :bank="bank"
      :alike="alike.get(looked.id) ?? []"
      @taken="brought"
      @back="looked = undefined"
    />
    <template v-else>
      <p v-if="total !== undefined" class="soft figures" role="status">
        {{
          total === 0
            ? `${bank} has nothing like this. Try other words or fewer filters.`
            : `${count(total, 'image')}.`
        }}
        <template v-if="own">
          Your library has {{ count(own, 'image') }} for these words.
          <AppButton look="link" @click="showOwn">Show them</AppButton>
        </template>
      </p>
      <p v-if="unlooked" class="note">{{ unlooked }}</p>
      <ul class="results">
        <li v-for="image in images" :key="image.id">
          <AppButton look="tile" @click="looked = image">
            <img :src="`/api/image-bank/images/${image.id}/look`" alt="" loading="lazy" decoding="async" />
            <span class="title">{{ image.title }}</span>
            <span class="soft figures"
              >{{ LICENCE_NAMES[image.terms.kind]
              }}<template v-if="image.price">, {{ priceOf(image) }}</template></span
            >
            <span v-if="taken.includes(image.id)" class="here">in Intake</span>
            <span v-else-if="image.here.length" class="here">in the library</span>
            <span v-else-if="image.bought" class="here">taken already</span>
            <span v-else-if="alike.get(image.id)?.length" class="here">{{
              have(alike.get(image.id)!.length)
            }}</span>
          </AppButton>
        </li>
      </ul>
      <AppButton
        v-if="total !== undefined && images.length < total"
        :busy="busy"
        @click="search(Math.floor(images.length / PAGE) + 1)"
      >
        Show more of {{ count(total, 'image') }}
      </AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.finder {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.finder :deep(.app-input) {
  flex: 1 1 200px;
}
.results {
  display: grid;
  max-height: 58vh;
  gap: 14px;
  margin: 0 0 10px;
  padding: 0;
  overflow: auto;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  list-style: none;
}
.results button {
  display: flex;
  width: 100%;
  flex-direction: column;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  cursor: pointer;
  font: inherit;
  text-align: left;
}
.results img {
  width: 100%;
  height: 130px;
  object-fit: contain;
  background: var(--paper);
}
.title {
  overflow: hidden;
  max-width: 100%;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.here {
  color: var(--verdigris);
  font-weight: 600;
}
</style>
