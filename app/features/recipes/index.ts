import { defineFeature } from '~/editor/feature'
import RecipesBench from './RecipesBench.vue'
import { useRecipes } from './recipes'

/** Steps kept as one, with inputs, and played on other things. */
export const recipes = defineFeature({
  name: 'Recipes',
  instead: { panel: RecipesBench, isOn: () => useRecipes().isOpen },
  commands: () => {
    const here = useRecipes()
    return [
      { name: 'Recipes …', run: here.open, on: ['thing', 'row'] },
      { name: 'Take down a recipe, or end that', run: () => void here.toggleRecording() },
    ]
  },
  grown: () => {
    const here = useRecipes()
    return here.all.map(({ recipe, of }) => ({
      name: `Play “${recipe.name}”${of === 'level' ? ' of the level' : ''}`,
      run: () => here.playNow(recipe),
    }))
  },
  standing: () => {
    const here = useRecipes()
    return {
      told: () => (here.recording ? 'Taking down a recipe' : null),
      end: () => void (here.recording && here.toggleRecording()),
    }
  },
})
