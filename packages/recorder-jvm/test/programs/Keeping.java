import java.lang.ref.WeakReference;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.Map;

/** Keeps what is known to be kept: handlers in a static map, links in a chain, entries of a thread's own, and one weakly. */
public class Keeping {
    static final Map<Integer, Handler> watch = new HashMap<>();
    static final ThreadLocal<ArrayList<Entry>> entries = ThreadLocal.withInitial(ArrayList::new);
    static Link chain;
    static WeakReference<Forgotten> weak = new WeakReference<>(new Forgotten());

    static class Handler {
        final byte[] body = new byte[200];
        long id;
    }

    record Link(Link next, int value) {}

    record Entry(String text) {}

    static class Forgotten {
        final long[] bulk = new long[1000];
    }

    public static void main(String[] args) throws Exception {
        for (int n = 0; n < 5000; n++) watch.put(n, new Handler());
        for (int n = 0; n < 100_000; n++) chain = new Link(chain, n);
        for (int n = 0; n < 3000; n++) entries.get().add(new Entry("entry " + n));
        System.gc();
        System.out.println("ready " + ProcessHandle.current().pid());
        Thread.sleep(120_000);
    }
}
