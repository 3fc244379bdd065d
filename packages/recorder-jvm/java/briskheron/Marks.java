package briskheron;

/**
 * Sets marks in the recording of this program: {@code briskheron.Marks.mark("import done")}. Does nothing while the program
 * is not recorded. Depends on nothing; copy this file or put its class on the class path.
 */
public final class Marks {
    private static final long RETRY_NANOS = 1_000_000_000L;
    private static volatile long quietUntil = Long.MIN_VALUE;
    private static volatile boolean quiet;

    private Marks() {}

    /** Marks this instant with a label of at most 200 characters. */
    public static void mark(String label) {
        if (label == null || (quiet && System.nanoTime() - quietUntil < 0)) return;
        try {
            tell(label);
            quiet = false;
        } catch (UnsatisfiedLinkError notRecorded) {
            // A recorder may be attached later, so this is not for ever.
            quietUntil = System.nanoTime() + RETRY_NANOS;
            quiet = true;
        }
    }

    private static native void tell(String label);
}
