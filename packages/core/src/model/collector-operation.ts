/** Operations that stop a JVM for its collector. */
const COLLECTOR_OPERATION = /^(?:G1|Parallel|GenCollect|Serial|Z|XMark|XRelocate|XVerify|Shenandoah|CollectFor|CMS_)/;

/** True for the name of an operation that collects, or is a step of it. */
export function isCollectorOperation(operation: string): boolean {
  return COLLECTOR_OPERATION.test(operation);
}
