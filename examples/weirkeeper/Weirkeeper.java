import java.lang.management.GarbageCollectorMXBean;
import java.lang.management.ManagementFactory;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;

/**
 * weirkeeper opens and closes the gates of the Saltmarsh weirs by the level of the tide. All data is made up.
 *
 *   java Weirkeeper.java SECONDS [--fixed]
 *
 * With its fault on, the log of gate movements is never shortened: memory grows at a constant rate. At the end it prints
 * what the JVM's own beans counted, one line per collector: `name count milliseconds`.
 */
public class Weirkeeper {
    record Reading(String weir, long minute, double level) {}
    record Movement(String weir, long minute, double from, double to, byte[] order) {}

    private static final List<String> WEIRS = List.of("North Weir", "Mill Weir", "Samphire Weir", "Outer Weir");
    private static final List<Movement> log = new ArrayList<>();
    private static final Deque<Reading> window = new ArrayDeque<>();

    public static void main(String[] args) throws InterruptedException {
        long seconds = args.length > 0 ? Long.parseLong(args[0]) : 10;
        boolean fixed = List.of(args).contains("--fixed");
        long end = System.nanoTime() + seconds * 1_000_000_000L;
        for (long minute = 0; System.nanoTime() < end; minute++) {
            for (String weir : WEIRS) regulate(weir, minute, fixed);
            Thread.sleep(1);
        }
        for (GarbageCollectorMXBean bean : ManagementFactory.getGarbageCollectorMXBeans()) {
            System.out.println(bean.getName() + " | " + bean.getCollectionCount() + " | " + bean.getCollectionTime());
        }
    }

    private static void regulate(String weir, long minute, boolean fixed) {
        for (int sample = 0; sample < 200; sample++) {
            window.addLast(parse(weir + ";" + minute + ";" + (2.5 + Math.sin(minute / 120.0 + sample / 900.0))));
            if (window.size() > 20_000) window.removeFirst();
        }
        double level = window.getLast().level();
        log.add(new Movement(weir, minute, level, Math.max(0, 4 - level), new byte[600]));
        if (fixed && log.size() > 1_000) log.clear();
    }

    private static Reading parse(String line) {
        String[] fields = line.split(";");
        return new Reading(fields[0], Long.parseLong(fields[1]), Double.parseDouble(fields[2]));
    }
}
