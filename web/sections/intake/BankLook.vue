<script setup lang="ts">
import { computed, ref } from 'vue';
import type { BankImageView } from '../../../api/image-bank.ts';
import { LICENCE_NAMES } from '../../../core/bank/terms.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import OnlyWho from '../../parts/OnlyWho.vue';
import { useIntake } from '../../stores/intake.ts';
import { useSite } from '../../stores/site.ts';
import { priceOf } from './bank-price.ts';

/** One image of the bank, large: what is allowed, what of it is here, and taking or buying it. */
const props = defineProps<{
  image: BankImageView;
  bank: string;
  /** Items that show the same. */
  alike: readonly { id: number; path: string }[];
}>();
const emit = defineEmits<{ taken: []; back: [] }>();
const intake = useIntake();
const site = useSite();
/** It has been agreed to buy it. */
const buying = ref(false);
/** It has to be paid for. */
const costs = computed(() => Boolean(props.image.price) && !props.image.bought);
/** What came from it stands by itself; others that look the same are told beside it. */
const others = computed(() => props.alike.filter(({ id }) => !props.image.here.some((one) => one.id === id)));
const taking = ref(false);
const fault = ref('');
async function take() {
  taking.value = true;
  fault.value = '';
  try {
    await intake.takeFromBank(props.image);
    emit('taken');
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    taking.value = false;
  }
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <div class="looked">
    <img :src="`/api/image-bank/images/${image.id}/look?size=large`" :alt="image.title" />
    <div class="facts">
      <h3>{{ image.title }}</h3>
      <p class="soft figures">
        {{ image.maker }}<br />{{ image.width }} × {{ image.height }} px<br /><span class="mono">{{
          image.id
        }}</span>
      </p>
      <p>
        <strong>{{ LICENCE_NAMES[image.terms.kind] }}, {{ priceOf(image) }}</strong
        ><br />{{ image.allowed }}
      </p>
      <p v-if="image.here.length" class="note">
        Already in the library:
        <RouterLink
          v-for="one in image.here"
          :key="one.id"
          class="mono"
          :to="{ name: 'library', query: { item: one.id } }"
          >{{ one.path }}</RouterLink
        >
      </p>
      <p v-if="others.length" class="note">
        Your library has this image, or one that looks the same:
        <RouterLink
          v-for="one in others"
          :key="one.id"
          class="mono"
          :to="{ name: 'library', query: { item: one.id } }"
          >{{ one.path }}</RouterLink
        >
      </p>
      <p class="soft">{{ image.keywords.join(', ') }}</p>
      <p v-if="image.bought" class="note">
        Taken for this site already, receipt <span class="mono">{{ image.bought.receipt }}</span>. It costs
        nothing to bring it in again.
      </p>
      <p v-if="buying && costs" class="note">
        This buys a licence from {{ bank }} for {{ priceOf(image) }}. It can’t be returned.
      </p>
      <p class="acts">
        <OnlyWho v-if="costs" right="publish">can buy images.</OnlyWho>
        <AppButton v-if="costs && !buying && site.may('publish')" look="main" @click="buying = true"
          >Buy for {{ priceOf(image) }} …</AppButton
        >
        <AppButton v-else-if="!costs || buying" look="main" :busy="taking" @click="take">{{
          costs ? `Buy and bring to Intake` : 'Bring to Intake'
        }}</AppButton>
        <AppButton @click="emit('back')">Back to the results</AppButton>
      </p>
    </div>
  </div>
</template>

<style scoped>
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
.note a {
  display: block;
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
