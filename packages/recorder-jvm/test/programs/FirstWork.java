/** Allocates a thousand arrays as the very first thing, which a recording must tell as well as what comes later. */
public class FirstWork {
    static final Object[] kept = new Object[1000];

    static void first() {
        for (int n = 0; n < kept.length; n++) kept[n] = new int[400];
    }

    public static void main(String[] args) throws Exception {
        first();
        Thread.sleep(300);
    }
}
