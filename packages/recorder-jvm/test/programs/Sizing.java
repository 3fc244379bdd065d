import com.sun.management.HotSpotDiagnosticMXBean;
import java.io.File;
import java.lang.management.ManagementFactory;
import java.util.ArrayList;
import java.util.HashMap;

/** Fills its heap with objects of many shapes, writes it down, and leaves a file whose name says how much it uses. */
public class Sizing {
    static class Base { byte a; long b; }
    static class Sub extends Base { byte c; int d; Object e; }
    static class Deep extends Sub { short f; boolean g; double h; Object i; char j; }
    static final ArrayList<Object> kept = new ArrayList<>();

    public static void main(String[] args) throws Exception {
        for (int n = 0; n < 60_000; n++) {
            kept.add(new Base());
            kept.add(new Sub());
            kept.add(new Deep());
            kept.add(new byte[n % 40]);
            kept.add(new Object[n % 9]);
            kept.add(new HashMap<String, String>());
            kept.add("text " + n);
        }
        HotSpotDiagnosticMXBean bean = ManagementFactory.getPlatformMXBean(HotSpotDiagnosticMXBean.class);
        // Asked once before, so that asking allocates no more than it must.
        ManagementFactory.getMemoryMXBean().getHeapMemoryUsage().getUsed();
        bean.dumpHeap(args[0], true);
        System.gc();
        long used = ManagementFactory.getMemoryMXBean().getHeapMemoryUsage().getUsed();
        new File(new File(args[0]).getParentFile(), "used-" + used).createNewFile();
        System.out.println("ready " + ProcessHandle.current().pid());
        Thread.sleep(60_000);
    }
}
