import java.nio.file.*;
import java.util.*;

/** What a program counts of itself: bytes that each method allocated, and how many of them it still holds. */
final class Count {
    private static final Map<String, long[]> CELLS = new TreeMap<>();

    static long bytes(int length) { return (16 + length + 7) / 8 * 8; }

    static synchronized void add(String method, long made, long kept) {
        long[] cell = CELLS.computeIfAbsent(method, name -> new long[2]);
        cell[0] += made;
        cell[1] += kept;
    }

    static synchronized void tell(String verdict, String top) throws Exception {
        StringBuilder text = new StringBuilder("{\"verdict\":\"" + verdict + "\",\"top\":\"" + top + "\",\"cells\":{");
        String comma = "";
        for (Map.Entry<String, long[]> cell : CELLS.entrySet()) {
            text.append(comma).append('"').append(cell.getKey()).append("\":{\"made\":").append(cell.getValue()[0]).append(",\"kept\":").append(cell.getValue()[1]).append('}');
            comma = ",";
        }
        Files.writeString(Path.of(System.getenv("TRUTH_OUT")), text + "}}\n");
    }
}
