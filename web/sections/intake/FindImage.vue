<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import type { BankImageView, BankQuery } from '../../../api/image-bank.ts';
import { COLOURS, LICENCE_KINDS, PAGE, SHAPES } from '../../../core/bank/protocol.ts';
import { LICENCE_NAMES } from '../../../core/bank/terms.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import OnlyWho from '../../parts/OnlyWho.vue';
import { useIntake } from '../../stores/intake.ts';
import { useSite } from '../../stores/site.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** Finds images in the image bank: looked at, bought where they cost something, and brought to the list of Intake. */
const emit = defineEmits<{ close: [] }>();
const intake = useIntake();
const site = useSite();
const router = useRouter();
const words = ref('');
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
      api.bankImages(queryOf(page)),
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

/** The image that is looked at, and whether it has been agreed to buy it. */
const looked = ref<BankImageView>();
const buying = ref(false);
function look(image: BankImageView | undefined) {
  looked.value = image;
  buying.value = false;
  fault.value = '';
}
/** It has to be paid for. */
const costs = computed(() => Boolean(looked.value?.price) && !looked.value?.bought);
const priceOf = ({ price }: BankImageView) => (price ? `${price.amount} ${price.currency}` : 'free');
const taken = ref<string[]>([]);
const taking = ref(false);
async function take(image: BankImageView) {
  taking.value = true;
  fault.value = '';
  try {
    await intake.takeFromBank(image);
    taken.value = [...taken.value, image.id];
    look(undefined);
    await search();
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    taking.value = false;
  }
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
      {{ count(taken.length, 'image') }} brought to Intake. Close this window to check and bring in.
    </p>

    <div v-if="looked" class="looked">
      <img :src="`/api/image-bank/images/${looked.id}/look?size=large`" :alt="looked.title" />
      <div class="facts">
        <h3>{{ looked.title }}</h3>
        <p class="soft figures">
          {{ looked.maker }}<br />{{ looked.width }} × {{ looked.height }} px<br /><span class="mono">{{
            looked.id
          }}</span>
        </p>
        <p>
          <strong>{{ LICENCE_NAMES[looked.terms.kind] }}, {{ priceOf(looked) }}</strong
          ><br />{{ looked.allowed }}
        </p>
        <p v-if="looked.here.length" class="note">
          Already in the library:
          <RouterLink
            v-for="one in looked.here"
            :key="one.id"
            class="mono inline"
            :to="{ name: 'library', query: { item: one.id } }"
            >{{ one.path }}</RouterLink
          >
        </p>
        <p class="soft">{{ looked.keywords.join(', ') }}</p>
        <p v-if="looked.bought" class="note">
          Taken for this site already, receipt <span class="mono">{{ looked.bought.receipt }}</span>. It costs
          nothing to bring it in again.
        </p>
        <p v-if="buying && costs" class="note">
          This buys a licence from {{ bank }} for {{ priceOf(looked) }}. It can’t be returned.
        </p>
        <p class="acts">
          <OnlyWho v-if="costs" right="publish">can buy images.</OnlyWho>
          <AppButton v-if="costs && !buying && site.may('publish')" look="main" @click="buying = true"
            >Buy for {{ priceOf(looked) }} …</AppButton
          >
          <AppButton v-else-if="!costs || buying" look="main" :busy="taking" @click="take(looked)">{{
            costs ? `Buy and bring to Intake` : 'Bring to Intake'
          }}</AppButton>
          <AppButton @click="look(undefined)">Back to the results</AppButton>
        </p>
      </div>
    </div>
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
      <ul class="results">
        <li v-for="image in images" :key="image.id">
          <AppButton look="tile" @click="look(image)">
            <img :src="`/api/image-bank/images/${image.id}/look`" alt="" loading="lazy" decoding="async" />
            <span class="title">{{ image.title }}</span>
            <span class="soft figures"
              >{{ LICENCE_NAMES[image.terms.kind]
              }}<template v-if="image.price">, {{ priceOf(image) }}</template></span
            >
            <span v-if="taken.includes(image.id)" class="here">in Intake</span>
            <span v-else-if="image.here.length" class="here">in the library</span>
            <span v-else-if="image.bought" class="here">taken already</span>
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
.looked {
  display: grid;
  gap: 20px;
  grid-template-columns: minmax(0, 3fr) minmax(240px, 2fr);
}
.looked img {
  width: 100%;
  max-height: 62vh;
  object-fit: contain;
}
.facts {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.facts h3,
.facts p {
  margin: 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
@media (width <= 760px) {
  .looked {
    grid-template-columns: 1fr;
  }
}
</style>
