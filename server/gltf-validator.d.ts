declare module 'gltf-validator' {
  export function validateBytes(
    bytes: Uint8Array,
    options?: {
      maxIssues?: number
      writeTimestamp?: boolean
      externalResourceFunction?: (uri: string) => Promise<Uint8Array>
    },
  ): Promise<{
    issues: {
      numErrors: number
      numWarnings: number
      messages: { code: string; message: string; severity: number; pointer?: string }[]
    }
    info: { extensionsUsed?: string[] }
  }>
}
