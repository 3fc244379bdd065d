import briskheron.Marks;
import java.lang.reflect.Method;
import java.net.URL;
import java.net.URLClassLoader;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Keeps what is known to be kept, line by line, and has an inventory taken at its mark; then fills its heap where that is asked for. */
public class Watching {
    static final Map<Integer, Handler> watch = new HashMap<>();
    static final List<Runnable> tideListeners = new ArrayList<>();
    static final List<List<Object>> rooms = new ArrayList<>();
    static final List<ClassLoader> plugins = new ArrayList<>();
    static final ThreadLocal<byte[]> buffer = new ThreadLocal<>();
    static final List<byte[]> full = new ArrayList<>();

    static class Handler {
        final byte[] body = body();
    }

    static class Other {
        final long[] body = new long[100];
    }

    static byte[] body() {
        return new byte[2000];
    }

    static void subscribe(int n) {
        watch.put(n, new Handler());
    }

    static Other[] others(int count) {
        Other[] all = new Other[count];
        for (int n = 0; n < count; n++) all[n] = new Other();
        return all;
    }

    static void listen(int count) {
        for (int n = 0; n < count; n++) {
            byte[] seen = new byte[500];
            seen[0] = (byte) n;
            seen[1] = (byte) (n >> 8);
            tideListeners.add(() -> seen[2]++);
        }
    }

    static void load(int count) throws Exception {
        URL here = Watching.class.getProtectionDomain().getCodeSource().getLocation();
        for (int n = 0; n < count; n++) {
            ClassLoader loader = new URLClassLoader(new URL[] { here }, ClassLoader.getPlatformClassLoader());
            Class<?> plugin = loader.loadClass("Plugin");
            Method fill = plugin.getMethod("fill");
            fill.setAccessible(true);
            fill.invoke(null);
            plugins.add(loader);
        }
    }

    public static void main(String[] words) throws Exception {
        for (int n = 0; n < 20_000; n++) {
            subscribe(n);
            if (n % 100 == 0) Thread.sleep(1);
        }
        Other[] kept = others(10_000);
        listen(3000);
        for (int n = 0; n < 4000; n++) {
            List<Object> room = new ArrayList<>(500);
            room.add(kept);
            rooms.add(room);
        }
        load(4);
        buffer.set(new byte[6_000_000]);
        Marks.mark("full");
        Thread.sleep(words.length > 0 ? 0 : 2500);
        System.out.println("kept " + kept.length + " " + watch.size());
        if (words.length == 0) return;
        try {
            while (true) full.add(new byte[100_000]);
        } catch (OutOfMemoryError error) {
            int kibibytes = full.size() * 100;
            full.clear();
            System.out.println("out of memory after " + kibibytes);
        }
    }
}

/** Loaded several times. */
class Plugin {
    static byte[] state;

    public static void fill() {
        state = new byte[700_000];
    }
}
