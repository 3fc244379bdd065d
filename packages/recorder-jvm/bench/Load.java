import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/**
 * Fixed work, timed: `java Load churn|mixed ROUNDS`. `churn` only allocates; `mixed` parses, sorts, looks up and allocates as a
 * service does. Prints nanoseconds of CPU time of the working thread, after a warm-up that is not counted.
 */
public class Load {
    static volatile Object last;

    public static void main(String[] args) {
        boolean churn = args[0].equals("churn");
        int rounds = Integer.parseInt(args[1]);
        var threads = java.lang.management.ManagementFactory.getThreadMXBean();
        for (int round = 0; round < rounds / 4; round++) if (churn) churn(); else mixed(round);
        long before = threads.getCurrentThreadCpuTime();
        for (int round = 0; round < rounds; round++) if (churn) churn(); else mixed(round);
        System.out.println(threads.getCurrentThreadCpuTime() - before);
    }

    static void churn() {
        for (int at = 0; at < 100_000; at++) last = new long[12];
    }

    static void mixed(int round) {
        Map<String, List<Double>> levels = new HashMap<>();
        for (int at = 0; at < 2000; at++) {
            String[] fields = ("Weir " + at % 17 + ";" + (round + at) + ";" + (at * 31 % 997) / 100.0).split(";");
            levels.computeIfAbsent(fields[0], weir -> new ArrayList<>()).add(Double.parseDouble(fields[2]));
        }
        double sum = 0;
        for (List<Double> list : levels.values()) {
            double[] sorted = list.stream().mapToDouble(Double::doubleValue).sorted().toArray();
            for (int at = 0; at < 200; at++) sum += sorted[Math.abs(Arrays.binarySearch(sorted, at / 20.0)) % sorted.length];
        }
        last = sum;
    }
}
