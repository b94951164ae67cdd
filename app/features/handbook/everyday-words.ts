/**
 * What people may call things that have another word here: for each of ours (an action by its name, or a page of the
 * handbook) the words that others use, as the trade and everyday speech have them.
 */
export const EVERYDAY_WORDS: Readonly<Record<string, readonly string[]>> = {
  'Move handles': ['translate', 'drag', 'shift', 'position', 'gizmo', 'arrows'],
  'Turn handles': ['rotate', 'rotation', 'spin', 'angle', 'orient'],
  'Size handles': ['scale', 'resize', 'stretch', 'bigger', 'smaller', 'grow', 'shrink'],
  'Pick everything': ['select all'],
  'Pick similar …': ['select similar', 'find alike', 'select by type'],
  'Next thing under the pointer': ['select behind', 'click through', 'cycle selection', 'through glass'],
  'Look at what is picked': ['focus', 'frame selection', 'zoom to selection', 'centre view', 'center view'],
  'Look at everything': ['fit all', 'zoom all', 'lost', 'reset view', 'home view'],
  'Show only what is picked, and back': ['isolate', 'solo', 'hide others'],
  'Show everything hidden': ['unhide', 'unhide all', 'invisible', 'disappeared', 'missing'],
  'Lock': ['freeze', 'protect'],
  'Group': ['combine', 'join together', 'parent', 'folder'],
  'Ungroup': ['break apart', 'separate', 'unparent'],
  'Remove': ['delete', 'erase', 'trash', 'get rid of'],
  'Undo': ['back one step', 'mistake', 'revert'],
  'Duplicate': ['clone', 'copy', 'copy in place', 'make another'],
  'Set down': ['snap to ground', 'ground', 'land', 'put on floor', 'gravity'],
  'Hug the surface, on or off': ['surface snap', 'snap to surface', 'stick to surface', 'conform', 'project'],
  'Abut, on or off': ['face snap', 'flush', 'butt', 'snap together', 'side by side'],
  'Vertex snap, on or off': ['point snap', 'corner snap', 'snap to point', 'magnet'],
  'Double the grid step': ['grid size', 'snap size', 'increment'],
  'Edit the pivot': ['origin', 'anchor', 'hinge', 'rotation centre', 'rotation center', 'handle point'],
  'Bake size or turn into the shape …': ['apply scale', 'apply transform'],
  'Reset turn …': ['zero rotation', 'straighten'],
  'World axes': ['global', 'world space', 'global axes'],
  'Local axes': ['object space', 'local space'],
  'Line up': ['align', 'distribute', 'space out', 'even spacing', 'arrange evenly', 'straight line'],
  'Repeat': ['array', 'row', 'pattern', 'radial', 'circular', 'fence', 'stairs', 'grid of', 'multiply', 'mirror'],
  'Make instances of …': ['linked copy', 'link', 'reference'],
  'Make independent': ['unlink', 'break link'],
  'Measure: tape': ['ruler', 'distance', 'how long', 'how far', 'length', 'dimension'],
  'Measure: clearance': ['gap', 'distance between'],
  'Check the level': ['validate', 'lint', 'problems', 'errors', 'warnings', 'audit', 'broken', 'overlap', 'floating'],
  'Place a camera at this view': ['save view as camera', 'new camera', 'shot'],
  'Put down: sun': ['daylight', 'directional light', 'lighting'],
  'Put down: point light': ['bulb', 'lamp', 'omni'],
  'Put down: spawn': ['start point', 'entry'],
  'Put down: volume': ['trigger', 'zone', 'region'],
  'Walk through from this view': ['first person', 'play', 'walkthrough', 'scale check', 'eye level'],
  'Let what is picked settle': ['physics', 'simulate', 'simulation', 'rigid body', 'fall', 'pile'],
  'Save as a part …': ['prefabricate', 'template', 'reusable', 'asset'],
  'Swap for another part …': ['replace', 'exchange', 'substitute'],
  'Milestones': ['save', 'version', 'snapshot', 'backup', 'checkpoint', 'restore', 'bookmark'],
  'Compare with a milestone or a level': ['diff', 'difference', 'what changed', 'merge', 'versions'],
  'Four panes, or the one under the pointer': ['quad view', 'viewport', 'viewports', 'split view'],
  'Clear view': ['fullscreen', 'full screen', 'hide panels', 'presentation'],
  'Day board or Night board': ['dark mode', 'light mode', 'theme', 'colours', 'colors'],
  'Keys …': ['shortcut', 'shortcuts', 'hotkey', 'hotkeys', 'keybindings', 'keyboard', 'remap'],
  'Pointing device …': ['mouse', 'trackpad', 'touchpad', 'pen', 'tablet', 'invert', 'sensitivity', 'scroll'],
  'Handbook': ['help', 'manual', 'documentation', 'docs', 'guide', 'support', 'how to'],
  'First steps': ['tutorial', 'learn', 'getting started', 'beginner', 'training', 'lesson', 'introduction'],
  'What is this?': ['tooltip', 'explain', 'what does this do'],
  'handing-over': ['export', 'import', 'publish', 'download', 'upload', 'save as', 'gltf', 'glb', 'usd', 'csv', 'pdf'],
  'scattering': ['vegetation', 'paint', 'brush', 'spread', 'sprinkle', 'randomise', 'randomize', 'jitter', 'populate'],
  'looking-around': ['orbit', 'pan', 'zoom', 'navigate', 'fly', 'camera control', 'move view'],
  'picking': ['select', 'selection', 'marquee', 'box select', 'lasso', 'hierarchy', 'layer', 'layers'],
  'keeping': ['constraint', 'constrain', 'attach', 'stick', 'relation', 'dependency', 'glue'],
  'together': ['collaborate', 'collaboration', 'multiplayer', 'share', 'comment', 'comments', 'team'],
  'going-back': ['history', 'branch', 'autosave', 'recover', 'lost work'],
  'numbers': ['formula', 'formulas', 'maths', 'math', 'units', 'coordinates', 'properties'],
  'your-own-parts': ['own model', 'own models', 'bring in a model', 'mesh', 'texture', 'library'],
  'levels': ['projects', 'project', 'scene', 'scenes', 'files', 'new file', 'open file', 'archive'],
}

const plain = (text: string) =>
  text
    .toLowerCase()
    .replace(/[?!.,“”"]/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()

/** What a question begins with, which says nothing of what is looked for. */
const ASKING =
  /^(how (do|can|could|should) (i|we|you)|how to|what is|what are|where is|where are|where do i find|why (is|are|does)|i want to|can i|please|help( me)?( with)?)\s+/

/** What a question ends with, which says nothing either. */
const OF_IT = /\s+(it|this|that|them|one|things?|something|here)$/

/** What is looked for, without what only makes it a question: "How do I rotate it?" is "rotate". */
export function soughtIn(text: string): string {
  let left = plain(text)
  for (let cut = left.replace(ASKING, ''); cut !== left; cut = left.replace(ASKING, '')) left = cut
  return left.replace(/^(a|an|the|my|some)\s+/, '').replace(OF_IT, '')
}

/** Actions and pages that a text means by everyday words: those it is the beginning of a word of, or that are in it. */
export function meantBy(text: string): string[] {
  const sought = soughtIn(text)
  if (sought.length < 2) return []
  const within = ` ${sought} `
  return Object.entries(EVERYDAY_WORDS)
    .filter(([, words]) => words.some(word => word.startsWith(sought) || within.includes(` ${word} `)))
    .map(([name]) => name)
}
