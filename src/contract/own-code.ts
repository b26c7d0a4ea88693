/** The code of the MSP's own tenant, which is no customer. A file of its own: pages know it without what checks requests. */
export const OWN_CODE = 'MSP';
