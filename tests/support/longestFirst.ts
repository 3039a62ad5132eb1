import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** Files that take longest: what begins with them ends without one of them running on alone. */
const longest = ['pages', 'slice', 'bridges', 'workshop'].map((name) => `${name}.test.ts`)
const placeOf = ({ moduleId }: TestSpecification) => {
  const found = longest.findIndex((name) => moduleId.endsWith(name))
  return found < 0 ? longest.length : found
}

export class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const sorted = await super.sort(files)
    return sorted.sort((a, b) => placeOf(a) - placeOf(b))
  }
}
