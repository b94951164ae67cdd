import { handOverRoute } from '../../../utils/hand-over-route'

export default handOverRoute('bill', 'bill')
