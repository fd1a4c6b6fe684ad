<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { api } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useIntake } from '../../stores/intake.ts';
import IntakeLine from './IntakeLine.vue';

const intake = useIntake();
const folders = ref<string[]>([]);
const input = ref<HTMLInputElement>();
const over = ref(false);

onMounted(async () => {
  await intake.load();
  folders.value = (await api.folders()).map((one) => one.folder).filter((one) => one !== '');
});
function chosen() {
  intake.add(input.value?.files ?? []);
  input.value!.value = '';
}
</script>

<template>
  <div
    class="intake"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop="over = false"
  >
    <div class="surface">
      <div class="head">
        <h1>Intake</h1>
        <p class="soft">
          Drop files anywhere here, or choose them. Nothing is on the site until you bring it in.
        </p>
      </div>
      <div class="choose">
        <button class="act quiet" type="button" @click="input?.click()">Choose files …</button>
        <input
          ref="input"
          type="file"
          multiple
          class="hidden-words"
          tabindex="-1"
          aria-label="Files to bring in"
          @change="chosen"
        />
        <label>
          For all of these, the folder
          <input
            v-model="intake.folder"
            class="mono"
            list="intake-folders"
            spellcheck="false"
            placeholder="the site’s root"
          />
          <datalist id="intake-folders"><option v-for="one in folders" :key="one" :value="one" /></datalist>
        </label>
      </div>
      <p v-if="intake.fault" class="note losing" role="alert">{{ intake.fault }}</p>
      <ol v-if="intake.lines.length" class="lines">
        <IntakeLine v-for="line in intake.lines" :key="line.key" :line="line" />
      </ol>
      <p v-else class="empty">
        Nothing waits here. Take pictures, films, sounds or documents from your computer: each is checked at
        the door, gets a name made of words, and is told apart from what the site already has.
      </p>
    </div>
    <div v-if="intake.lines.length" class="foot">
      <p class="figures" role="status">
        <template v-if="intake.underway">{{ count(intake.underway, 'file') }} still under way. </template>
        <template v-if="intake.lines.some((line) => line.state === 'refused')"
          >{{
            count(intake.lines.filter((line) => line.state === 'refused').length, 'file')
          }}
          refused.</template
        >
      </p>
      <button
        class="act"
        type="button"
        :disabled="!intake.chosen.length || intake.busy || intake.underway > 0"
        @click="intake.bringIn()"
      >
        Bring in {{ count(intake.chosen.length, 'item') }},
        {{ weight(intake.chosen.reduce((sum, line) => sum + line.bytes, 0)) }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.intake {
  display: flex;
  height: 100%;
  flex-direction: column;
}
.intake.over {
  box-shadow: inset 0 0 0 3px var(--verdigris);
}
.surface {
  flex: 1;
}
.choose {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 20px;
  padding-bottom: 14px;
  border-bottom: 1px solid var(--rule-strong);
}
label input {
  width: 300px;
  height: 30px;
  margin-left: 6px;
  padding: 0 8px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper-raised);
}
.lines {
  margin: 0;
  padding: 0;
  list-style: none;
}
.foot {
  display: flex;
  align-items: center;
  justify-content: flex-end;
  gap: 16px;
  padding: 10px 24px;
  border-top: 1px solid var(--rule-strong);
}
</style>
