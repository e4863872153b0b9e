worn.start();
