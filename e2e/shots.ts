export async function shots(_root: string): Promise<void> {}
