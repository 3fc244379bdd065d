import java.lang.ref.WeakReference;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.Map;

/**
 * Keeps what is known to be kept: handlers in a static map, links in a chain, entries of a thread's own, one weakly, and
 * readings by keys that are never equal to each other, beside some by keys that would be.
 */
public class Keeping {
    static final Map<Integer, Handler> watch = new HashMap<>();
    static final ThreadLocal<ArrayList<Entry>> entries = ThreadLocal.withInitial(ArrayList::new);
    static final Map<Gauge, byte[]> readings = new HashMap<>();
    static final Map<Lock, byte[]> levels = new HashMap<>();
    static Link chain;
    static WeakReference<Forgotten> weak = new WeakReference<>(new Forgotten());

    static class Handler {
        final byte[] body = new byte[200];
        long id;
    }

    static class Gauge {
        final String name;
        final int hour;
        final double offset = 0.25;

        Gauge(String name, int hour) {
            this.name = name;
            this.hour = hour;
        }
    }

    record Lock(String name, int hour) {}

    record Link(Link next, int value) {}

    record Entry(String text) {}

    static class Forgotten {
        final long[] bulk = new long[1000];
    }

    public static void main(String[] args) throws Exception {
        for (int n = 0; n < 5000; n++) watch.put(n, new Handler());
        for (int n = 0; n < 100_000; n++) chain = new Link(chain, n);
        for (int n = 0; n < 3000; n++) entries.get().add(new Entry("entry " + n));
        for (int n = 0; n < 4000; n++) readings.put(new Gauge(new String("weir " + n % 8), n % 10), new byte[100]);
        for (int n = 0; n < 4000; n++) levels.put(new Lock(new String("lock " + n % 400), n % 10), new byte[100]);
        System.gc();
        System.out.println("ready " + ProcessHandle.current().pid());
        Thread.sleep(120_000);
    }
}
