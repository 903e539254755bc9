/** The version of the product, as package.json has it. */
export const version = '0.1.0'
