import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;

/**
 * Allocates at sites whose bytes it counts itself: `java Counting MILLISECONDS`. At its end it prints a line for each site,
 * `method bytes`, with object sizes as a 64-bit JVM with compressed pointers lays them out. `held` keeps each object for a
 * known time: `held-ms 400`.
 */
public class Counting {
    static final int HELD_MS = 400;
    static final List<Object> kept = new ArrayList<>(2_000_000);
    static final Deque<long[]> window = new ArrayDeque<>();
    static final Deque<Long> windowTimes = new ArrayDeque<>();
    static volatile Object last;
    static long small, medium, large, leak, held;

    public static void main(String[] args) throws InterruptedException {
        long end = System.nanoTime() + Long.parseLong(args[0]) * 1_000_000L;
        while (System.nanoTime() < end) {
            for (int at = 0; at < 4000; at++) small();
            for (int at = 0; at < 40; at++) medium();
            large();
            for (int at = 0; at < 20; at++) leak();
            for (int at = 0; at < 20; at++) held();
            expire();
            Thread.sleep(1);
        }
        System.out.println("small " + small);
        System.out.println("medium " + medium);
        System.out.println("large " + large);
        System.out.println("leak " + leak);
        System.out.println("held " + held);
        System.out.println("held-ms " + HELD_MS);
    }

    static void small() {
        last = new int[6];
        small += 16 + 24;
    }

    static void medium() {
        last = new byte[5000 - 16];
        medium += 5000;
    }

    static void large() {
        last = new byte[300_000 - 16];
        large += 300_000;
    }

    static void leak() {
        kept.add(new byte[984]);
        leak += 1000;
    }

    static void held() {
        window.addLast(new long[123]);
        windowTimes.addLast(System.nanoTime());
        held += 1000;
    }

    static void expire() {
        long before = System.nanoTime() - HELD_MS * 1_000_000L;
        while (!windowTimes.isEmpty() && windowTimes.getFirst() < before) {
            windowTimes.removeFirst();
            window.removeFirst();
        }
    }
}
