declare module 'uvl-parser' {
  export class FeatureModel {
    constructor(file: string)
    getFeatureModel(): unknown
  }
}
