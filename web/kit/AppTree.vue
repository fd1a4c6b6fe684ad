<script setup lang="ts" generic="T extends { children: T[] }">
import { ElTree } from 'element-plus/es/components/tree/index';
import 'element-plus/es/components/tree/style/css';
import 'element-plus/es/components/checkbox/style/css';
import { nextTick, useTemplateRef, watch } from 'vue';

/** A tree whose branches open and close; arrows walk through it, Enter chooses. What stands at a node is drawn by the slot. */
const props = defineProps<{
  label: string;
  data: readonly T[];
  /** The field that names a node. */
  idKey: keyof T & string;
  open: readonly string[];
  current: string;
}>();
const emit = defineEmits<{
  toggle: [id: string, closed: boolean];
  choose: [id: string];
  menu: [event: Event, id: string];
}>();
const tree = useTemplateRef('tree');
const idOf = (node: unknown) => String((node as T)[props.idKey]);
watch(
  () => props.open,
  async (open) => {
    await nextTick();
    for (const id of open) {
      const node = tree.value?.getNode(id);
      if (node && !node.expanded) node.expand(null, false);
    }
  },
);
</script>

<template>
  <ElTree
    ref="tree"
    class="app-tree"
    :aria-label="label"
    :data="data as unknown as Record<string, unknown>[]"
    :node-key="idKey"
    :default-expanded-keys="[...open]"
    :current-node-key="current"
    :expand-on-click-node="false"
    :auto-expand-parent="false"
    :indent="13"
    highlight-current
    @node-expand="emit('toggle', idOf($event), false)"
    @node-collapse="emit('toggle', idOf($event), true)"
    @node-click="emit('choose', idOf($event))"
    @node-contextmenu="
      (event: Event, node: unknown) => (event.preventDefault(), emit('menu', event, idOf(node)))
    "
  >
    <template #default="{ data: node }"><slot :node="node as T"></slot></template>
  </ElTree>
</template>
