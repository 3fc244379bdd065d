import java.util.*;

/**
 * A program whose memory has the shape that its first argument names, for a number of seconds: `java Shape leak 25 live=20 churn=60 leak=1`. Amounts are MB and
 * MB a second; `gc` asks for a whole collection every so many milliseconds, 0 for none.
 */
public final class Shape {
    static final int SIZE = 1000;
    static final double MB = 1e6;
    static final Map<String, Double> options = new HashMap<>();
    static final ArrayList<byte[]> kept = new ArrayList<>();
    static byte[][] live;
    static byte[] last;
    static long sum = 0;
    static int turn = 0;
    static int steps = 0;

    static double option(String name, double otherwise) { return options.getOrDefault(name, otherwise); }

    static int objects(double mb) { return (int) Math.ceil(mb * MB / SIZE); }

    static void churn(double mb) {
        for (int n = objects(mb); n > 0; n--) { last = new byte[SIZE]; sum += last.length; }
    }

    static void keep(double mb) {
        for (int n = objects(mb); n > 0; n--) kept.add(new byte[SIZE]);
    }

    /** What lives is filled up to a share of its bound, and so much of it is made anew. */
    static void turnOver(double mb, double share) {
        int most = (int) (live.length * Math.min(1, share));
        for (int n = 0; n < most; n++) if (live[n] == null) live[n] = new byte[SIZE];
        for (int n = most == 0 ? 0 : objects(mb); n > 0; n--) live[turn++ % most] = new byte[SIZE];
    }

    static void burst(double mb) throws InterruptedException {
        byte[][] held = new byte[objects(mb)][];
        for (int n = 0; n < held.length; n++) held[n] = new byte[SIZE];
        Thread.sleep(300);
        sum += held.length;
    }

    /** One turn, `t` of the way from 0 to 1, of `seconds` since the last. */
    static void work(String shape, double t, double seconds) throws InterruptedException {
        double turned = option("turn", 10) * seconds, leak = option("leak", 1) * seconds, step = option("step", 8);
        switch (shape) {
            case "steady" -> turnOver(turned, 1);
            case "leak" -> { turnOver(turned, 1); keep(leak); }
            case "late" -> { turnOver(turned, 1); if (t > 0.5) keep(leak); }
            case "stairs" -> { turnOver(0, 1); if (t * option("steps", 6) >= steps) { keep(step); steps++; } }
            case "one-step" -> { turnOver(turned, 1); if (t > 0.5 && steps++ == 0) keep(step); }
            case "start-up" -> turnOver(turned, t / 0.2);
            case "spikes" -> { turnOver(0, 1); if (t * 6 >= steps + 1) { steps++; burst(step * 10); } }
            case "shrink" -> { if (steps++ == 0) keep(option("live", 20)); while (kept.size() > objects(option("live", 20) * (1 - 0.8 * t))) kept.remove(kept.size() - 1); }
            case "window" -> { turnOver(0, 1); keep(leak); if (kept.size() > objects(step * 5)) kept.clear(); }
            default -> throw new IllegalArgumentException(shape);
        }
    }

    public static void main(String[] args) throws Exception {
        double seconds = Double.parseDouble(args[1]);
        for (String word : Arrays.asList(args).subList(2, args.length)) options.put(word.split("=")[0], Double.parseDouble(word.split("=")[1]));
        live = new byte[objects(option("live", 20))][];
        double churned = option("churn", 60), everyMs = option("gc", 0);
        long startNs = System.nanoTime(), lastNs = startNs, collectedNs = startNs;
        for (double t = 0; t < 1; t = (System.nanoTime() - startNs) / 1e9 / seconds) {
            long now = System.nanoTime();
            double passed = Math.min(0.2, (now - lastNs) / 1e9);
            lastNs = now;
            churn(churned * passed);
            work(args[0], t, passed);
            if (everyMs > 0 && now - collectedNs >= everyMs * 1e6) { collectedNs = now; System.gc(); }
            Thread.sleep(5);
        }
        System.exit(sum == 42 ? 1 : 0);
    }
}
