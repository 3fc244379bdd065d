package briskheron;

/**
 * Says which part of this program's life is recorded. {@code Births.stop()} ends the sampling of births while what is
 * followed stays followed, so that the fate of one use case can be read off; {@code Births.start()} samples them again;
 * {@code Births.startOver()} lets go of all that is followed. Each does nothing while the program is not recorded.
 * Depends on nothing; copy this file or put its class on the class path.
 */
public final class Births {
    private Births() {}

    /** Births from now on are sampled. */
    public static void start() {
        ask(() -> switchTo(true));
    }

    /** Births from now on are not sampled; deaths of those before are told as ever. */
    public static void stop() {
        ask(() -> switchTo(false));
    }

    /** Nothing of what lives now is followed any further; a mark is set and births are sampled. */
    public static void startOver() {
        ask(Births::forget);
    }

    private static void ask(Runnable wish) {
        try {
            wish.run();
        } catch (UnsatisfiedLinkError notRecorded) {
            // Nobody is there to be asked.
        }
    }

    private static native void switchTo(boolean on);

    private static native void forget();
}
