import { useMediaQuery } from '@vueuse/core';

/** Whether a dialog, a menu or a list lies over the screen: Escape and the keys of the screen are not meant then. */
export const isCovered = () =>
  [...document.querySelectorAll('.el-overlay, #menus .el-popper')].some((one) => one.checkVisibility());

/** Below this the folders lie in a drawer. The same width stands in the style sheets. */
export const useFolded = () => useMediaQuery('(width <= 1100px)');
/** Below this everything stands in one column: a phone, or a laptop at 200 %. */
export const useOneColumn = () => useMediaQuery('(width <= 760px)');
