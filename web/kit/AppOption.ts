import { ElOption } from 'element-plus/es/components/select/index';
import 'element-plus/es/components/option/style/css';

/** One of the choices of AppSelect: the library's own, as a closed list is read from its choices only where they are these. */
export default ElOption;
