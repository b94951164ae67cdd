import { handOverRoute } from '../../../utils/hand-over-route'

export default handOverRoute('exportLevel', 'level')
