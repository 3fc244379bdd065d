import java.util.ArrayDeque;

/** Makes lists that live two seconds, and texts that die at once; how long is known. */
public class KnownLives {
    static final long LIVES_NS = 2_000_000_000L;
    static final ArrayDeque<Held> held = new ArrayDeque<>();
    static int sum;

    record Held(long untilNs, int[] what) {}

    static void lastTwoSeconds(long nowNs) {
        held.add(new Held(nowNs + LIVES_NS, new int[256]));
        while (held.peek().untilNs() < nowNs) held.remove();
    }

    static void churn() {
        for (int n = 0; n < 60; n++) sum += new byte[4096].length;
    }

    public static void main(String[] args) throws Exception {
        long endNs = System.nanoTime() + Long.parseLong(args[0]) * 1_000_000_000L;
        for (long nowNs = System.nanoTime(); nowNs < endNs; nowNs = System.nanoTime()) {
            lastTwoSeconds(nowNs);
            churn();
            Thread.sleep(1);
        }
        System.out.println(sum);
    }
}
