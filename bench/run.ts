export async function bench(_root: string, _images: number): Promise<void> {}
