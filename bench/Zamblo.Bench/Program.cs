return 0;
