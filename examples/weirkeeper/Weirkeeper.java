import java.lang.management.GarbageCollectorMXBean;
import java.lang.management.ManagementFactory;
import java.text.DecimalFormat;
import java.text.DecimalFormatSymbols;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.Consumer;

/**
 * weirkeeper opens and closes the gates of the Saltmarsh weirs by the level of the tide. All data is made up.
 *
 *   java Weirkeeper.java SECONDS [--faults schedule,listeners,rotas,reports,window] [--fixed]
 *
 * Its faults, all but `window` on unless said otherwise:
 *
 *   schedule   gate schedules are cached under a key without equality: every look-up misses and adds one
 *   listeners  a weir that reconnects registers another listener and never removes the last
 *   rotas      every ten seconds a new rota gets its own pool, whose threads keep a buffer each in a thread-local
 *   reports    every reading is formatted with a formatter of its own: churn
 *   window     readings are held just long enough to be promoted, then dropped
 *
 * With --fixed none is on. At its end it prints what the JVM's own beans counted, one line per collector:
 * `name | count | milliseconds`.
 */
public class Weirkeeper {
    record Reading(String weir, long minute, double level) {}

    /** A gate's schedule for one day: 96 quarters of an hour. */
    static final class Schedule {
        final double[] opening = new double[96];
    }

    /** Which schedule is meant. Without equals and hashCode, two keys of the same day are different. */
    static class ScheduleKey {
        final String weir;
        final long day;

        ScheduleKey(String weir, long day) {
            this.weir = weir;
            this.day = day;
        }
    }

    static final class EqualScheduleKey extends ScheduleKey {
        EqualScheduleKey(String weir, long day) {
            super(weir, day);
        }

        @Override
        public boolean equals(Object other) {
            return other instanceof EqualScheduleKey that && that.day == day && that.weir.equals(weir);
        }

        @Override
        public int hashCode() {
            return weir.hashCode() * 31 + Long.hashCode(day);
        }
    }

    private static final List<String> WEIRS = List.of("North Weir", "Mill Weir", "Samphire Weir", "Outer Weir");
    private static final int READINGS_A_TICK = 100;
    private static final DecimalFormatSymbols SYMBOLS = DecimalFormatSymbols.getInstance(Locale.ROOT);

    private final Set<String> faults;
    private final Map<ScheduleKey, Schedule> schedules = new HashMap<>();
    private final Map<String, Consumer<Reading>> listeners = new HashMap<>();
    private final List<Consumer<Reading>> forgotten = new ArrayList<>();
    private final Deque<Reading> window = new ArrayDeque<>();
    private final List<ExecutorService> rotas = new ArrayList<>();
    private final DecimalFormat formatter = new DecimalFormat("0.000", SYMBOLS);
    private final ThreadLocal<byte[]> rotaBuffer = ThreadLocal.withInitial(() -> new byte[192 * 1024]);
    private long told;

    Weirkeeper(Set<String> faults) {
        this.faults = faults;
    }

    public static void main(String[] args) throws InterruptedException, ExecutionException {
        long seconds = args.length > 0 ? Long.parseLong(args[0]) : 10;
        List<String> words = List.of(args);
        Set<String> faults = Set.of("schedule", "listeners", "rotas", "reports");
        if (words.contains("--faults")) faults = Set.of(words.get(words.indexOf("--faults") + 1).split(","));
        if (words.contains("--fixed")) faults = Set.of();
        (weirs = new Weirkeeper(faults)).keep(seconds);
        for (GarbageCollectorMXBean bean : ManagementFactory.getGarbageCollectorMXBeans()) {
            System.out.println(bean.getName() + " | " + bean.getCollectionCount() + " | " + bean.getCollectionTime());
        }
        System.exit(0);
    }

    private void keep(long seconds) throws InterruptedException, ExecutionException {
        long start = System.nanoTime();
        long end = start + seconds * 1_000_000_000L;
        long nextRota = start;
        for (long minute = 0; System.nanoTime() < end; minute++) {
            for (String weir : WEIRS) regulate(weir, minute);
            if (minute % 40 == 0) reconnect(WEIRS.get((int) (minute / 40 % WEIRS.size())));
            if (System.nanoTime() >= nextRota) {
                changeRota();
                nextRota += 10_000_000_000L;
            }
            Thread.sleep(2);
        }
    }

    private void regulate(String weir, long minute) {
        for (int sample = 0; sample < READINGS_A_TICK; sample++) {
            Reading reading = parse(weir + ";" + minute + ";" + (2.5 + Math.sin(minute / 120.0 + sample / 900.0)));
            listeners.getOrDefault(weir, this::ignore).accept(reading);
            if (faults.contains("window")) slide(reading);
        }
        Schedule schedule = scheduleOf(weir, minute / 400);
        schedule.opening[(int) (minute % 96)] += 0.01;
    }

    private static Reading parse(String line) {
        String[] fields = line.split(";");
        return new Reading(fields[0], Long.parseLong(fields[1]), Double.parseDouble(fields[2]));
    }

    private Schedule scheduleOf(String weir, long day) {
        if (!faults.contains("schedule")) {
            if (schedules.size() > 64) schedules.clear();
            return schedules.computeIfAbsent(new EqualScheduleKey(weir, day), key -> new Schedule());
        }
        ScheduleKey key = new ScheduleKey(weir, day);
        Schedule known = schedules.get(key);
        if (known == null) schedules.put(key, known = draw());
        return known;
    }

    private static Schedule draw() {
        return new Schedule();
    }

    private void reconnect(String weir) {
        Consumer<Reading> listener = listen(weir);
        Consumer<Reading> last = listeners.put(weir, listener);
        if (faults.contains("listeners") && last != null) forgotten.add(last);
    }

    private Consumer<Reading> listen(String weir) {
        double[] history = new double[256];
        return reading -> {
            history[(int) (reading.minute() & 255)] = reading.level();
            told += report(reading).length();
        };
    }

    private String report(Reading reading) {
        if (faults.contains("reports")) return new DecimalFormat("0.000", SYMBOLS).format(reading.level());
        return formatter.format(reading.level());
    }

    private void slide(Reading reading) {
        window.addLast(reading);
        if (window.size() > 150_000) window.removeFirst();
    }

    private void changeRota() throws InterruptedException, ExecutionException {
        ExecutorService rota = Executors.newFixedThreadPool(2);
        for (int keeper = 0; keeper < 2; keeper++) rota.submit(() -> rotaBuffer.get()[0]++).get();
        if (faults.contains("rotas")) rotas.add(rota);
        else rota.shutdown();
    }

    private void ignore(Reading reading) {
        told++;
    }

    /** Held to the very end, so that nothing it keeps is let go while the program ends. */
    private static Weirkeeper weirs;
}
