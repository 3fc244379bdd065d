import { ANY_COLLECTOR, type RuntimeTraits, UNKNOWN_RUNTIME } from '../model/runtime-traits.ts';

const GENERATIONAL = 'a larger young space, or survivors that are allowed more ages';

/** Named after the script, or lying where an engine defines its classes; the library of a language is not a script. */
const SCRIPT_FILES =
  /^(?!clojure\/)(?:.*\.(?:js|mjs|py|rb|groovy|gradle|kts|clj|cljc|lua|php|tcl|scm|r)$|org\/mozilla\/javascript\/gen\/|(?:jdk|org\/openjdk)\/nashorn\/internal\/scripts\/)/i;

/** OpenJDK's HotSpot, all of its collectors. */
export const JVM: RuntimeTraits = {
  ...UNKNOWN_RUNTIME,
  name: 'jvm',
  fits: /^OpenJDK/,
  oldSpaces: new Set(['Old', 'ParOldGen', 'PSOldGen', 'Tenured', 'CMS', 'Old generation']),
  largeSpaces: new Set(['Humongous']),
  outsideSpaces: new Set(['Metaspace']),
  collectorOperations: /^(?:G1|Parallel|GenCollect|Serial|Z|XMark|XRelocate|XVerify|Shenandoah|CollectFor|CMS_)/,
  causes: {
    diagnostic: /^(?:Diagnostic Command|Heap (?:Inspection|Dump) Initiated GC|JvmtiEnv ForceGarbageCollection)$/,
    periodic: /^(?:G1 Periodic Collection|Timer|Proactive)$/,
    outside:
      /^(?:Metadata GC (?:Threshold|Clear Soft References)|Metaspace|CodeCache GC (?:Threshold|Aggressive)|GCLocker Initiated GC)/,
  },
  lineMeans: 'allocation',
  scriptFiles: SCRIPT_FILES,
  linesOfCollection: { named: (gcId) => `GC(${gcId}) ` },
  exampleCommand: 'java -jar app.jar',
  askedForAdvice:
    'Find who calls System.gc() (the standard library does for direct buffers and for RMI, too). Where it cannot be taken out, the JVM can be told to do such collections beside the program, or not at all.',
  collectors: [
    { ...ANY_COLLECTOR, kind: 'shenandoah', fits: /Shenandoah/, roomForYoung: 'a larger heap', promotesInPlace: true },
    { ...ANY_COLLECTOR, kind: 'z', fits: /The Z |ZGC/, roomForYoung: 'a larger heap', promotesInPlace: true },
    { ...ANY_COLLECTOR, kind: 'cms', fits: /CMS/, roomForYoung: GENERATIONAL },
    {
      ...ANY_COLLECTOR,
      kind: 'g1',
      fits: /\bG1\b/,
      roomForYoung: 'a larger share for the young space (a longer pause goal gives it one)',
      roomForSurvivors:
        'Too little was free when the collection began: marking started too late for this rate of allocation. Start it earlier, keep a larger reserve, or give the heap more room.',
    },
    { ...ANY_COLLECTOR, kind: 'parallel', fits: /Parallel/, roomForYoung: GENERATIONAL },
    { ...ANY_COLLECTOR, kind: 'serial', fits: /Serial/, roomForYoung: GENERATIONAL },
    ANY_COLLECTOR,
  ],
};
