<script setup lang="ts">
import { PhX } from '@phosphor-icons/vue';
import { computed, ref } from 'vue';
import type { ItemDetail } from '../../api/items.ts';
import { partsOf } from '../../core/people/mentions.ts';
import { api, sentenceOf } from '../api/client.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import { moment } from './words.ts';

/** What people say to each other about an item. Written as '@' and a name, a comment is listed for that person. */
const props = defineProps<{ detail: ItemDetail }>();
const site = useSite();
const plan = usePlan();
const text = ref('');
const fault = ref('');
const busy = ref(false);
const names = computed(() => (site.site?.people ?? []).map((one) => one.name));
const others = computed(() => names.value.filter((name) => name !== site.site?.person.name));
const hint = computed(() =>
  others.value.length > 0 ? `Write @${others.value[0]} to call somebody` : 'Write a comment',
);

async function act(work: () => Promise<void>) {
  busy.value = true;
  fault.value = '';
  try {
    await work();
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
  }
}
const itemId = computed(() => props.detail.item.id);
const post = () =>
  act(async () => {
    await plan.make({ kind: 'comment', itemId: itemId.value, say: { text: text.value } });
    text.value = '';
  });
const remove = (key: string) =>
  act(async () => {
    const made = await api.plan({ kind: 'comment', itemId: itemId.value, say: { key } });
    await plan.changed(await api.apply(made.id));
  });
const mayRemove = (person: string) => person === site.site?.person.name || site.may('people');
</script>

<template>
  <section>
    <h3>Comments</h3>
    <ol v-if="detail.comments.length">
      <li v-for="one in detail.comments" :key="one.key">
        <p class="who">
          <strong>{{ one.person }}</strong> <span class="soft figures">{{ moment(one.at) }}</span>
          <AppButton
            v-if="mayRemove(one.person)"
            look="glyph"
            :aria-label="`Delete the comment of ${one.person}, ${moment(one.at)}`"
            title="Delete this comment"
            @click="remove(one.key)"
            ><PhX :size="12" />
          </AppButton>
        </p>
        <p class="said">
          <template v-for="(part, at) in partsOf(one.text, names)" :key="at"
            ><strong v-if="part.name">{{ part.text }}</strong
            ><template v-else>{{ part.text }}</template></template
          >
        </p>
      </li>
    </ol>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <form v-if="site.may('describe')" @submit.prevent="post">
      <label
        ><span class="hidden-words">Comment</span>
        <AppInput v-model="text" :rows="2" maxlength="5000" :placeholder="hint" />
      </label>
      <AppButton type="submit" :disabled="!text.trim() || busy">Comment</AppButton>
    </form>
  </section>
</template>

<style scoped>
section,
form {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
section {
  padding-top: 10px;
  border-top: 1px solid var(--rule);
}
form > :last-child {
  align-self: start;
}
ol {
  display: grid;
  margin: 0;
  padding: 0;
  gap: 8px;
  list-style: none;
}
.who {
  display: flex;
  align-items: center;
  gap: 6px;
}
.said {
  overflow-wrap: anywhere;
  white-space: pre-line;
}
</style>
