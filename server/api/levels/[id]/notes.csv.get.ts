import { handOverRoute } from '../../../utils/hand-over-route'

export default handOverRoute('notes', 'notes')
