import java.util.*;

/** Programs of a few lines each, named by the first argument, that count themselves: `java Truth slow-leak 20`. */
public final class Truth {
    static final int SIZE = 1000;
    static byte[][] kept = new byte[400_000][];
    static int held = 0;
    static long sum = 0;

    static void keepReading(int times) {
        for (int n = 0; n < times; n++) kept[held++] = new byte[SIZE];
        Count.add("keepReading", times * Count.bytes(SIZE), times * Count.bytes(SIZE));
    }

    static void keepOther(int times) {
        for (int n = 0; n < times; n++) kept[held++] = new byte[SIZE];
        Count.add("keepOther", times * Count.bytes(SIZE), times * Count.bytes(SIZE));
    }

    static byte[] last;

    static void churn(int times) {
        for (int n = 0; n < times; n++) { last = new byte[SIZE]; sum += last.length; }
        last = null;
        Count.add("churn", times * Count.bytes(SIZE), 0);
    }

    static void churnLate(int times) {
        for (int n = 0; n < times; n++) { last = new byte[SIZE]; sum += last.length; }
        last = null;
        Count.add("churnLate", times * Count.bytes(SIZE), 0);
    }

    static void turnOver(int at) {
        for (int n = 0; n < 20; n++) {
            int slot = (at * 20 + n) % 8000;
            if (kept[slot] != null) Count.add("turnOver", 0, -Count.bytes(SIZE));
            kept[slot] = new byte[SIZE];
        }
        Count.add("turnOver", 20 * Count.bytes(SIZE), 20 * Count.bytes(SIZE));
    }

    static byte[] month;

    static void loadMonth() {
        month = new byte[30_000_000];
        Count.add("loadMonth", Count.bytes(30_000_000), Count.bytes(30_000_000));
    }

    public static void main(String[] args) throws Exception {
        String which = args[0];
        long startMs = System.currentTimeMillis();
        double seconds = Double.parseDouble(args[1]);
        int n = 0;
        for (double t = 0; t < 1; t = (System.currentTimeMillis() - startMs) / 1000.0 / seconds, n++) {
            step(which, n, t);
            Thread.sleep(10);
        }
        Thread.sleep(5000);
        Count.tell(verdictOf(which), which.contains("leak") ? "keepReading" : "");
        System.exit(sum == 42 ? 1 : 0);
    }

    static void step(String which, int n, double t) throws Exception {
        switch (which) {
            case "slow-leak" -> { keepReading(4); churn(200); }
            case "fast-leak" -> { keepReading(40); churn(100); }
            case "two-leaks" -> { keepReading(20); keepOther(10); churn(100); }
            case "churn" -> churn(1000);
            case "cache" -> { turnOver(n); churn(100); }
            case "late" -> { churn(100); if (t > 1.0 / 3) churnLate(300); }
            case "one-array" -> { if (n == 200) loadMonth(); churn(200); }
            case "thread-leak" -> { Thread thread = new Thread(() -> keepReading(20)); thread.start(); thread.join(); churn(100); }
            default -> throw new IllegalArgumentException(which);
        }
    }

    static String verdictOf(String which) {
        if (which.contains("leak")) return "growing";
        return which.equals("cache") ? "flat" : which.equals("one-array") ? "not-growing" : "steady";
    }
}
