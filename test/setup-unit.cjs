require('fake-indexeddb/auto');
